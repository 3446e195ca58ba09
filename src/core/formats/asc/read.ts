import { checkpoint, LevelGridError, type ByteSource } from '../../base';
import { bandRows, type OpenRaster, type RasterInfo } from '../../raster';
import { checkSize } from '../blocks';
import { SequentialReader } from '../bytes';
import { companionText } from '../beside';
import type { HeightFormat } from '../format';
import { parseProjection } from '../projection';

const START = /^\s*(ncols|nrows|xllcorner|xllcenter|yllcorner|yllcenter|cellsize|nodata_value)\s/i;

/** ASCII grid: lines of a key and a number, then rows of numbers from the north. */
export const ascFormat: HeightFormat = {
  id: 'asc',
  name: 'ASCII grid',
  endings: ['asc'],
  companions: ['prj'],
  sniff: ({ head }) => START.test(String.fromCharCode(...head)),
  open: openAsc,
};

/** A header takes some two hundred bytes. */
const MOST_HEADER = 4096;
/** What such grids use where they name no value. */
const USUAL_NO_DATA = -9999;
/** A number in text is never longer. */
const MOST_TOKEN = 64;

interface Header {
  readonly width: number;
  readonly height: number;
  readonly values: ReadonlyMap<string, number>;
  /** Bytes before the first number. */
  readonly length: number;
}

const bad = (found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy: 'Export the grid again, or mend the line.' });

function parseHeader(text: string): Header {
  const values = new Map<string, number>();
  let length = 0;
  for (;;) {
    const line = /^[ \t]*([A-Za-z_]+)[ \t]+(\S+)[ \t]*(?:\r\n|\n|\r)\s*/.exec(text.slice(length));
    if (!line) break;
    const [all, key = '', value = ''] = line;
    const number = Number(value);
    if (Number.isNaN(number) && !/^nan$/i.test(value))
      throw bad(`"${value.slice(0, 40)}" as ${key.slice(0, 40)}`, 'a number');
    values.set(key.toLowerCase(), number);
    length += all.length;
  }
  const side = (key: string): number => {
    const value = values.get(key);
    if (value === undefined || !Number.isInteger(value)) throw bad(`${value ?? 'nothing'} as ${key}`, 'a whole number');
    return value;
  };
  return { width: side('ncols'), height: side('nrows'), values, length };
}

async function openAsc(source: ByteSource): Promise<OpenRaster> {
  const bytes = await source.read(0, MOST_HEADER);
  const header = parseHeader(String.fromCharCode(...bytes));
  const { width, height, values } = header;
  checkSize(width, height, 0);
  // each sample takes a digit and a space at the least
  if (width * height * 2 - 1 > source.size)
    throw new LevelGridError('truncated', {
      found: `${source.size} bytes that claim ${width} × ${height} samples`,
      expected: `at least ${width * height * 2 - 1} bytes for that size`,
      remedy: 'The file is cut short: copy or export it again.',
    });
  const projection = parseProjection((await companionText(source, 'prj')) ?? '');
  const cell = values.get('cellsize');
  const [dx = cell, dy = cell] = [values.get('dx'), values.get('dy')];
  const noData = values.get('nodata_value') ?? USUAL_NO_DATA;
  const centre = values.has('xllcenter') || values.has('yllcenter');
  const [x, y] = [
    values.get('xllcenter') ?? values.get('xllcorner'),
    values.get('yllcenter') ?? values.get('yllcorner'),
  ];
  const placed = dx !== undefined && dy !== undefined && dx > 0 && dy > 0;
  const half = centre ? 0 : 0.5;
  const info: RasterInfo = {
    format: 'asc',
    width,
    height,
    channels: 1,
    bitDepth: 32,
    sampleType: 'float',
    byteOrder: null,
    noData,
    mayHoldVoids: true,
    registration: centre ? 'vertex' : 'cell',
    ...(placed
      ? {
          georeference: {
            x: (x ?? 0) + half * dx,
            y: (y ?? 0) + (height - 1 + half) * dy,
            dx,
            dy,
            ...(projection
              ? {
                  metres: projection.metres,
                  degrees: projection.degrees,
                  ...(projection.text === undefined ? {} : { text: projection.text }),
                }
              : unitOf(x ?? 0, y ?? 0, dx, dy)),
            crs: projection?.crs ?? null,
          },
        }
      : {}),
    warnings: [],
  };
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const perBand = bandRows(width);
      const numbers = new NumberReader(source, header.length);
      try {
        for (let at = 0; at < height; at += perBand) {
          checkpoint(job);
          const rows = Math.min(perBand, height - at);
          const data = new Float32Array(rows * width);
          for (let i = 0; i < data.length; i++) {
            const value = await numbers.next();
            if (value === null)
              throw new LevelGridError('truncated', {
                file: source.name,
                found: `the end of the file in row ${at + Math.floor(i / width)}`,
                expected: `${height} rows of ${width} numbers`,
                remedy: 'The file is cut short: copy or export it again.',
              });
            data[i] = value === noData ? NaN : value;
          }
          yield { y: at, rows, data };
        }
      } finally {
        await numbers.end();
      }
    },
  };
}

/** The grid does not say what its coordinates are: small steps on the globe are degrees, all others metres. */
function unitOf(x: number, y: number, dx: number, dy: number): { metres: number | null; degrees: boolean } {
  const degrees = Math.max(dx, dy) < 0.1 && Math.abs(x) <= 180 && Math.abs(y) <= 90;
  return { metres: degrees ? null : 1, degrees };
}

/** Numbers of a text, one after the other. */
class NumberReader {
  private readonly reader: SequentialReader;
  private piece: Uint8Array = new Uint8Array(0);
  private at = 0;

  constructor(
    private readonly source: ByteSource,
    from: number,
  ) {
    this.reader = new SequentialReader(source, from);
  }

  /** The next number; null at the end. */
  next(): number | null | Promise<number | null> {
    const { piece } = this;
    let start = this.at;
    while (start < piece.length && (piece[start] as number) <= 32) start++;
    let end = start;
    while (end < piece.length && (piece[end] as number) > 32) end++;
    // a number that touches the end of what was read may go on
    if (end === piece.length) return this.across(piece.slice(start));
    this.at = end;
    return this.parse(piece, start, end);
  }

  private async across(begun: Uint8Array): Promise<number | null> {
    let token = begun;
    for (;;) {
      const piece = await this.reader.some(1 << 16);
      if (piece.length === 0) {
        this.piece = piece;
        this.at = 0;
        return token.length === 0 ? null : this.parse(token, 0, token.length);
      }
      const joined = new Uint8Array(token.length + piece.length);
      joined.set(token);
      joined.set(piece, token.length);
      let start = 0;
      while (start < joined.length && (joined[start] as number) <= 32) start++;
      let end = start;
      while (end < joined.length && (joined[end] as number) > 32) end++;
      if (end < joined.length) {
        this.piece = joined;
        this.at = end;
        return this.parse(joined, start, end);
      }
      token = joined.slice(start);
      if (token.length > MOST_TOKEN) return this.parse(token, 0, token.length);
    }
  }

  private parse(bytes: Uint8Array, from: number, to: number): number {
    const text = String.fromCharCode(...bytes.subarray(from, Math.min(to, from + MOST_TOKEN)));
    const value = /^[+-]?nan$/i.test(text) ? NaN : Number(text);
    if (to - from < MOST_TOKEN && text !== '' && (!Number.isNaN(value) || /nan/i.test(text))) return value;
    throw new LevelGridError('corrupt', {
      file: this.source.name,
      found: `"${text.slice(0, 40)}" among the heights`,
      expected: 'a number',
      remedy: 'Export the grid again, with a point before the decimals.',
    });
  }

  end(): Promise<void> {
    return this.reader.end();
  }
}
