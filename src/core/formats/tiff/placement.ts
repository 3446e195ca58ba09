import { isUpright, type MapPlace } from '../../raster';
import { ASCII, DOUBLE, SHORT, type Entry } from './directory-entries';

/* Georeferencing as it is written (GeoTIFF, OGC 19-008r4): spacing and tie point, or a matrix; and a directory of keys. */

const GEOGRAPHIC = 2;
const PROJECTED = 1;
/** Samples are points, so that the place given is that of the north-western sample itself. */
const POINTS = 2;
const DEGREE = 9102;
const METRE = 9001;
/** Units of length by their code in the register of units. */
const LENGTHS: readonly (readonly [code: number, metres: number])[] = [
  [METRE, 1],
  [9002, 0.3048],
  [9003, 1200 / 3937],
  [9036, 1000],
];
const USER_DEFINED = 32767;

/** The entries that say where the raster lies; `heights`: samples are elevations in metres. */
export function placementEntries(place: MapPlace, heights: boolean): readonly Entry[] {
  const { origin, across, down } = place;
  return [
    ...(isUpright(place)
      ? ([
          [33550, DOUBLE, [across[0], -down[1], 0]],
          [33922, DOUBLE, [0, 0, 0, origin[0], origin[1], 0]],
        ] as const)
      : ([
          [34264, DOUBLE, [across[0], down[0], 0, origin[0], across[1], down[1], 0, origin[1], 0, 0, 0, 0, 0, 0, 0, 1]],
        ] as const)),
    ...keyEntries(place, heights),
  ];
}

/** A key's number, and its value: a code, or a text. */
type Key = readonly [key: number, value: number | string];

function keysOf({ degrees, crs, metres }: MapPlace, heights: boolean): readonly Key[] {
  const code = /^EPSG:(\d{1,5})$/.exec(crs ?? '')?.[1];
  const system: readonly Key[] =
    crs === null
      ? []
      : code !== undefined
        ? [[degrees ? 2048 : 3072, Number(code)]]
        : degrees
          ? [
              [2048, USER_DEFINED],
              [2049, crs],
            ]
          : [
              [3072, USER_DEFINED],
              [3073, crs],
            ];
  const length = LENGTHS.find(([, m]) => m === metres)?.[0];
  return [
    [1024, degrees ? GEOGRAPHIC : PROJECTED],
    [1025, POINTS],
    ...system,
    ...(degrees ? ([[2054, DEGREE]] as const) : length === undefined ? [] : ([[3076, length]] as const)),
    ...(heights ? ([[4099, METRE]] as const) : []),
  ];
}

function keyEntries(place: MapPlace, heights: boolean): readonly Entry[] {
  const keys = keysOf(place, heights);
  let texts = '';
  const listed = keys.flatMap(([key, value]) => {
    if (typeof value === 'number') return [key, 0, 1, value];
    const at = texts.length;
    // texts are of single bytes, each ended by a bar
    texts += `${value.replace(/[^\x20-\x7e]|\|/g, '?')}|`;
    return [key, 34737, texts.length - at, at];
  });
  return [
    [34735, SHORT, [1, 1, 0, keys.length, ...listed]],
    ...(texts === '' ? [] : ([[34737, ASCII, [...texts, '\0'].map((c) => c.charCodeAt(0))]] as const)),
  ];
}
