import { checkpoint, LevelGridError, type ByteSource } from '../../base';
import { bandRows, samplesOver, sampleBytes, type OpenRaster, type RasterInfo, type RasterWarning } from '../../raster';
import { checkSize } from '../blocks';
import { copyOf, HOST_IS_LITTLE, swapBytes } from '../bytes';
import type { HeightFormat } from '../format';

/** Kinds by their first two bytes: channels, and whether samples are floats. */
const KINDS = {
  P5: { channels: 1, float: false },
  P6: { channels: 3, float: false },
  Pf: { channels: 1, float: true },
  PF: { channels: 3, float: true },
} as const;
type Kind = keyof typeof KINDS;

const kindOf = (head: Uint8Array): Kind | null => {
  const kind = String.fromCharCode(head[0] ?? 0, head[1] ?? 0);
  const space = head[2] ?? 0;
  return kind in KINDS && (space === 10 || space === 13 || space === 32 || space === 9) ? (kind as Kind) : null;
};

/** Binary PGM and PPM (big-endian, rows from the north) and PFM (floats, rows from the south). */
export const netpbmFormat: HeightFormat = {
  id: 'netpbm',
  name: 'PGM or PFM',
  endings: ['pgm', 'ppm', 'pnm', 'pfm'],
  sniff: ({ head }) => kindOf(head) !== null,
  open: openNetpbm,
};

const MOST_HEADER = 4096;

const bad = (found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy: 'The file is damaged: export it again.' });

/** Width, height and highest value (or scale), and where the samples begin. Comments run from # to the end of a line. */
function parseHeader(bytes: Uint8Array): { width: number; height: number; last: number; start: number } {
  const numbers: number[] = [];
  let at = 2;
  while (numbers.length < 3) {
    while (at < bytes.length && (bytes[at] as number) <= 32) at++;
    if (bytes[at] === 35) {
      while (at < bytes.length && bytes[at] !== 10) at++;
      continue;
    }
    const from = at;
    while (at < bytes.length && (bytes[at] as number) > 32) at++;
    const text = String.fromCharCode(...bytes.subarray(from, Math.min(at, from + 40)));
    const value = Number(text);
    if (text === '' || !Number.isFinite(value)) throw bad(`"${text}" in the header`, 'width, height and highest value');
    numbers.push(value);
  }
  const [width = 0, height = 0, last = 0] = numbers;
  if (!Number.isInteger(width) || !Number.isInteger(height))
    throw bad(`a size of ${width} × ${height}`, 'whole numbers');
  // exactly one blank behind the last number
  return { width, height, last, start: at + 1 };
}

async function openNetpbm(source: ByteSource): Promise<OpenRaster> {
  const bytes = await source.read(0, MOST_HEADER);
  const kind = kindOf(bytes) ?? 'P5';
  const { channels, float } = KINDS[kind];
  const { width, height, last, start } = parseHeader(bytes);
  checkSize(width, height, 0);
  if (!float && !(Number.isInteger(last) && last >= 1 && last <= 65535))
    throw bad(`${last} as the highest value`, '1 to 65535');
  if (float && last === 0) throw bad('a scale of 0', 'a number other than 0, negative for little-endian');
  const sampleSize = float ? 4 : last > 255 ? 2 : 1;
  const rowBytes = width * channels * sampleSize;
  if (start + rowBytes * height > source.size)
    throw new LevelGridError('truncated', {
      found: `${source.size} bytes`,
      expected: `${start + rowBytes * height} for ${width} × ${height} samples`,
      remedy: 'The file is cut short: copy or export it again.',
    });
  const little = float && last < 0;
  const info: RasterInfo = {
    format: 'netpbm',
    width,
    height,
    channels,
    bitDepth: float ? 32 : sampleSize * 8,
    sampleType: float ? 'float' : 'uint',
    byteOrder: sampleSize === 1 ? null : little ? 'little' : 'big',
    warnings: warningsOf(channels, float, last, sampleSize),
  };
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const perBand = bandRows(width);
      for (let y = 0; y < height; y += perBand) {
        checkpoint(job);
        const rows = Math.min(perBand, height - y);
        // floats begin with the southern row
        const at = start + (float ? height - y - rows : y) * rowBytes;
        const own = copyOf(await source.read(at, rows * rowBytes));
        if (own.length < rows * rowBytes)
          throw new LevelGridError('truncated', {
            file: source.name,
            found: `the end of the file in row ${y}`,
            expected: `${height} rows`,
            remedy: 'The file changed while it was read: bring it in again.',
          });
        if (little !== HOST_IS_LITTLE) swapBytes(own, sampleSize);
        const from = samplesOver(info, own.buffer);
        const data = samplesOver(info, new ArrayBuffer(rows * width * sampleBytes(info)));
        for (let r = 0; r < rows; r++) {
          const row = (float ? rows - 1 - r : r) * width * channels;
          for (let x = 0; x < width; x++) data[r * width + x] = from[row + x * channels] as number;
        }
        yield { y, rows, data };
      }
    },
  };
}

function warningsOf(channels: number, float: boolean, last: number, size: number): RasterWarning[] {
  const warnings: RasterWarning[] = [];
  if (channels > 1)
    warnings.push({
      code: 'colour',
      message: `The file holds ${channels} channels; heights are read from the first, and the others are left out.`,
    });
  const top = 2 ** (8 * size) - 1;
  if (!float && last !== top)
    warnings.push({
      code: 'structure',
      message: `The file calls ${last} its highest code. Level Grid counts from 0 to ${top}: what stands for the highest code must be the elevation of ${top}.`,
    });
  return warnings;
}
