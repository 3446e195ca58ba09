import type { Georeference, HeightUnit } from '../../raster';
import type { Directory } from './directory';
import { GEOGRAPHIC, KEYS, METRES, PROJECTED, USER_DEFINED } from './geo-keys';

/* Georeferencing of a GeoTIFF (OGC 19-008r4): scale and tie point or a matrix, and a directory of keys. */

const HEIGHT_UNITS: Readonly<Record<number, HeightUnit>> = { 9001: 'metre', 9002: 'foot', 9003: 'us-survey-foot' };

export interface GeoFacts {
  readonly georeference?: Georeference;
  readonly registration?: 'vertex' | 'cell';
  readonly unit?: HeightUnit;
  /** The raster is turned or sheared on the ground: it can't be read as rows from west to east. */
  readonly turned: boolean;
}

/** Where the raster lies, as far as the file says so. */
export async function readGeo(directory: Directory): Promise<GeoFacts> {
  const keys = await readKeys(directory);
  const registration = ([undefined, 'cell', 'vertex'] as const)[Number(keys.get(KEYS.raster) ?? 0)];
  const vertical = keys.get(KEYS.vertical);
  const unit = typeof vertical === 'number' ? HEIGHT_UNITS[vertical] : undefined;
  const said = { ...(registration ? { registration } : {}), ...(unit ? { unit } : {}) };
  const placed = await placement(directory);
  if (!placed) return { ...said, turned: false };
  const { x, y, dx, dy, turned } = placed;
  const model = keys.get(KEYS.model);
  const degrees = model === GEOGRAPHIC || (model === undefined && keys.get(KEYS.geographic) !== undefined);
  const linear = keys.get(KEYS.linear);
  const metres = degrees
    ? null
    : typeof linear === 'number'
      ? (METRES[linear] ?? null)
      : model === PROJECTED
        ? 1
        : null;
  // the place of a cell is given at its corner
  const half = registration === 'vertex' ? 0 : 0.5;
  return {
    ...said,
    turned,
    georeference: {
      x: x + half * dx,
      y: y - half * dy,
      dx,
      dy,
      metres,
      degrees,
      crs: crsOf(keys, degrees),
      ...(metres === 1 && typeof linear !== 'number' ? { assumed: true } : {}),
    },
  };
}

function crsOf(keys: ReadonlyMap<number, number | string>, degrees: boolean): string | null {
  const code = keys.get(degrees ? KEYS.geographic : KEYS.projected);
  if (typeof code === 'number' && code !== USER_DEFINED && code > 0) return `EPSG:${code}`;
  const text = keys.get(degrees ? KEYS.geographicText : KEYS.projectedText);
  return typeof text === 'string' ? text : null;
}

async function placement(
  directory: Directory,
): Promise<{ x: number; y: number; dx: number; dy: number; turned: boolean } | null> {
  const matrix = await directory.numbers('transformation');
  if (matrix.length >= 16) {
    const [a = 0, b = 0, , d = 0, e = 0, f = 0, , h = 0] = matrix;
    return a > 0 && f < 0
      ? { x: d, y: h, dx: a, dy: -f, turned: b !== 0 || e !== 0 }
      : { x: d, y: h, dx: 1, dy: 1, turned: true };
  }
  const [dx = 0, dy = 0] = await directory.numbers('pixelScale');
  const tie = await directory.numbers('tiepoint');
  if (!(dx > 0 && dy > 0) || tie.length < 6) return null;
  const [i = 0, j = 0, , x = 0, y = 0] = tie;
  return { x: x - i * dx, y: y + j * dy, dx, dy, turned: false };
}

/** Values of the keys: numbers, and texts. */
async function readKeys(directory: Directory): Promise<Map<number, number | string>> {
  const out = new Map<number, number | string>();
  const all = await directory.numbers('geoKeys');
  const doubles = await directory.numbers('geoDoubles');
  const texts = (await directory.text('geoText')) ?? '';
  for (let i = 4; i + 3 < all.length && i < 4 + 4 * (all[3] ?? 0); i += 4) {
    const [key = 0, where = 0, count = 0, value = 0] = all.slice(i, i + 4);
    if (where === 0) out.set(key, value);
    else if (where === 34736 && doubles[value] !== undefined) out.set(key, doubles[value]);
    else if (where === 34737) out.set(key, texts.slice(value, value + count).replace(/\|$/, ''));
  }
  return out;
}
