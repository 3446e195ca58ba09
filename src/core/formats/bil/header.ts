import { LevelGridError } from '../../base';
import type { ByteOrder, RasterWarning, SampleType } from '../../raster';

/** How the samples of several bands lie: by rows, by samples, or one whole band after the other. */
export type Interleave = 'bil' | 'bip' | 'bsq';

/** What the .hdr beside a grid says. */
export interface GridHeader {
  readonly width: number;
  readonly height: number;
  readonly bands: number;
  readonly bits: 8 | 16 | 32 | 64;
  readonly sampleType: SampleType;
  readonly byteOrder: ByteOrder;
  readonly interleave: Interleave;
  /** Bytes in front of the first sample, from row to row, and from sample to sample. */
  readonly skip: number;
  readonly rowBytes: number;
  readonly sampleStride: number;
  readonly noData: number | null;
  /** Centre of the north-western sample and steps, in units of the coordinates. */
  readonly place: { readonly x: number; readonly y: number; readonly dx: number; readonly dy: number } | null;
  readonly registration: 'vertex' | 'cell';
  readonly warnings: readonly RasterWarning[];
}

const bad = (file: string, found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { file, found, expected, remedy: 'Correct the header, or export the grid again.' });

/** Lines of a key and a value; what comes later than a blank line or bears no value is left. */
function linesOf(text: string): Map<string, string> {
  const values = new Map<string, string>();
  for (const line of text.split(/\r\n|\n|\r/).slice(0, 200)) {
    const found = /^\s*([A-Za-z_]{1,40})\s*[=:]?\s+(\S{1,80})/.exec(line);
    if (found) values.set((found[1] ?? '').toUpperCase(), found[2] ?? '');
  }
  return values;
}

/**
 * Reads a header. `float`: the grid is one of floats by its name, whose header says less. Throws `corrupt` and
 * `unsupported`.
 */
export function parseGridHeader(text: string, file: string, ending: string): GridHeader {
  const values = linesOf(text);
  const number = (key: string): number | null => {
    const said = values.get(key);
    if (said === undefined) return null;
    const value = Number(said);
    if (!Number.isFinite(value)) throw bad(file, `"${said}" as ${key}`, 'a number');
    return value;
  };
  const whole = (key: string, usual: number | null, least: number): number => {
    const value = number(key) ?? usual;
    if (value === null || !Number.isInteger(value) || value < least)
      throw bad(file, `${value ?? 'nothing'} as ${key}`, 'a whole number');
    return value;
  };
  const float = ending === 'flt';
  const width = whole('NCOLS', null, 1);
  const height = whole('NROWS', null, 1);
  const bands = whole('NBANDS', 1, 1);
  const bits = whole('NBITS', float ? 32 : 8, 1);
  if (bits !== 8 && bits !== 16 && bits !== 32 && bits !== 64)
    throw new LevelGridError('unsupported', {
      file,
      found: `samples of ${bits} bits`,
      expected: '8, 16, 32 or 64 bits',
      remedy: 'Export the grid with 16 or 32 bits.',
    });
  const noData = number('NODATA') ?? number('NODATA_VALUE');
  const { sampleType, warnings } = typeOf(values.get('PIXELTYPE'), bits, float, noData, file);
  const interleave = interleaveOf(values.get('LAYOUT'), ending, file);
  const bytes = bits / 8;
  const bandRow = whole('BANDROWBYTES', width * bytes, 1);
  const all = interleave === 'bip' ? width * bands * bytes : bandRow * bands;
  const rowBytes = interleave === 'bsq' ? bandRow : whole('TOTALROWBYTES', all, 1);
  const sampleStride = interleave === 'bip' ? bands * bytes : bytes;
  if (rowBytes < (width - 1) * sampleStride + bytes)
    throw bad(file, `rows of ${rowBytes} bytes`, `at least ${width * bytes} for ${width} samples`);
  return {
    width,
    height,
    bands,
    bits,
    sampleType,
    byteOrder: orderOf(values.get('BYTEORDER'), file),
    interleave,
    skip: whole('SKIPBYTES', 0, 0),
    rowBytes,
    sampleStride,
    noData,
    ...placeOf(values, number, height),
    warnings,
  };
}

function typeOf(
  said: string | undefined,
  bits: number,
  float: boolean,
  noData: number | null,
  file: string,
): { sampleType: SampleType; warnings: RasterWarning[] } {
  if (float || said?.toUpperCase() === 'FLOAT') {
    if (bits >= 32) return { sampleType: 'float', warnings: [] };
    throw bad(file, `floats of ${bits} bits`, '32 or 64 bits');
  }
  if (bits === 64) return { sampleType: 'float', warnings: [] };
  if (said !== undefined) {
    if (/^SIGNEDINT$/i.test(said)) return { sampleType: 'int', warnings: [] };
    if (/^UNSIGNEDINT$/i.test(said)) return { sampleType: 'uint', warnings: [] };
    throw bad(file, `"${said}" as PIXELTYPE`, 'SIGNEDINT, UNSIGNEDINT or FLOAT');
  }
  if (bits === 8) return { sampleType: 'uint', warnings: [] };
  // elevations have a sign by custom, and a mark for voids that is negative needs one
  const signed = bits === 16 || (noData !== null && noData < 0);
  const words = signed ? 'with a sign, as elevations are' : 'without a sign';
  return {
    sampleType: signed ? 'int' : 'uint',
    warnings: [
      {
        code: 'structure',
        message: `The header does not say whether numbers have a sign (PIXELTYPE): they are read ${words}.`,
      },
    ],
  };
}

function interleaveOf(said: string | undefined, ending: string, file: string): Interleave {
  const word = (said ?? ending).toLowerCase();
  if (word === 'bil' || word === 'bip' || word === 'bsq') return word;
  if (said === undefined) return 'bil';
  throw bad(file, `"${said}" as LAYOUT`, 'BIL, BIP or BSQ');
}

function orderOf(said: string | undefined, file: string): ByteOrder {
  switch (said?.toUpperCase()) {
    case undefined:
    case 'I':
    case 'LSBFIRST':
      return 'little';
    case 'M':
    case 'MSBFIRST':
      return 'big';
    default:
      throw bad(file, `"${said}" as BYTEORDER`, 'I or LSBFIRST (low byte first), M or MSBFIRST (high byte first)');
  }
}

/** Either the centre of the north-western sample, or a southern and a western edge or centre with the size of cells. */
function placeOf(
  values: ReadonlyMap<string, string>,
  number: (key: string) => number | null,
  height: number,
): Pick<GridHeader, 'place' | 'registration'> {
  const cell = number('CELLSIZE');
  const dx = number('XDIM') ?? cell;
  const dy = number('YDIM') ?? cell;
  const corner = values.has('XLLCORNER') || values.has('YLLCORNER');
  const registration = corner ? 'cell' : 'vertex';
  if (dx === null || dy === null || !(dx > 0) || !(dy > 0)) return { place: null, registration };
  const half = corner ? 0.5 : 0;
  const west = number('XLLCORNER') ?? number('XLLCENTER');
  const south = number('YLLCORNER') ?? number('YLLCENTER');
  const x = number('ULXMAP') ?? (west === null ? 0 : west + half * dx);
  const y = number('ULYMAP') ?? (south === null ? 0 : south + (height - 1 + half) * dy);
  return { place: { x, y, dx, dy }, registration };
}
