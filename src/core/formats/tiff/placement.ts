import { isUpright, type MapPlace } from '../../raster';
import { ASCII, DOUBLE, SHORT, type Entry } from './directory-entries';
import { DEGREE, GEOGRAPHIC, KEYS, METRE, METRES, POINTS, PROJECTED, USER_DEFINED } from './geo-keys';

/* Georeferencing as it is written (GeoTIFF, OGC 19-008r4): spacing and tie point, or a matrix; and a directory of keys. */

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
  const number = Number(/^EPSG:(\d{1,5})$/.exec(crs ?? '')?.[1] ?? NaN);
  // codes of the register end below what stands for one's own system; others are told as a name
  const code = number > 0 && number < USER_DEFINED ? number : null;
  const [byCode, byName] = degrees ? [KEYS.geographic, KEYS.geographicText] : [KEYS.projected, KEYS.projectedText];
  const system: readonly Key[] =
    crs === null
      ? []
      : code !== null
        ? [[byCode, code]]
        : [
            [byCode, USER_DEFINED],
            [byName, crs],
          ];
  const length = Object.keys(METRES).find((unit) => METRES[Number(unit)] === metres);
  return [
    [KEYS.model, degrees ? GEOGRAPHIC : PROJECTED],
    [KEYS.raster, POINTS],
    ...system,
    ...(degrees
      ? ([[KEYS.angular, DEGREE]] as const)
      : length === undefined
        ? []
        : ([[KEYS.linear, Number(length)]] as const)),
    ...(heights ? ([[KEYS.vertical, METRE]] as const) : []),
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
