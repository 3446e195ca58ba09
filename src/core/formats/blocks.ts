import { checkpoint, LevelGridError, type JobContext } from '../base';
import { bandRows, type RasterInfo, type StoredBand, type StoredSamples } from '../raster';
import { MAX_SIDE } from './limits';

/** Most bytes that the samples of one row of blocks may take: they are held at once. */
export const MAX_BLOCK_BYTES = 2 ** 28;

/** An array of samples for a raster with these facts. */
export type Allocate = (length: number) => StoredSamples;

/**
 * Bands of a raster that is stored in blocks of rows. `decode` fills `into` with the samples of block row `index`, row
 * after row, `rows` of them; block rows are decoded once each, from the north.
 */
export async function* bandsOfBlocks(
  { width, height }: Pick<RasterInfo, 'width' | 'height'>,
  blockRows: number,
  allocate: Allocate,
  decode: (index: number, rows: number, into: StoredSamples) => Promise<void>,
  job?: JobContext,
): AsyncGenerator<StoredBand> {
  const perBand = bandRows(width);
  let block: StoredSamples | null = null;
  let blockAt = -1;
  for (let y = 0; y < height; y += perBand) {
    checkpoint(job);
    const rows = Math.min(perBand, height - y);
    const data = allocate(rows * width);
    for (let r = 0; r < rows;) {
      const index = Math.floor((y + r) / blockRows);
      const first = index * blockRows;
      const there = Math.min(blockRows, height - first);
      const skip = y + r - first;
      const take = Math.min(there - skip, rows - r);
      if (skip === 0 && take === there) {
        await decode(index, there, data.subarray(r * width, (r + there) * width));
      } else {
        if (blockAt !== index) {
          block ??= allocate(blockRows * width);
          await decode(index, there, block.subarray(0, there * width));
          blockAt = index;
        }
        (data as Float64Array).set((block as Float64Array).subarray(skip * width, (skip + take) * width), r * width);
      }
      r += take;
    }
    yield { y, rows, data };
  }
}

/** Refuses sizes that nobody writes, before anything is allocated. */
export function checkSize(width: number, height: number, blockBytes: number): void {
  if (!(width >= 1 && height >= 1)) {
    throw new LevelGridError('corrupt', {
      found: `a raster of ${width} × ${height} samples`,
      expected: 'at least one sample each way',
      remedy: 'Export the file again.',
    });
  }
  if (width > MAX_SIDE || height > MAX_SIDE) {
    throw new LevelGridError('too-large', {
      found: `a raster of ${width} × ${height} samples`,
      expected: `at most ${MAX_SIDE} samples a side`,
      remedy: 'Split the raster, or check that the file is what you think.',
    });
  }
  if (blockBytes > MAX_BLOCK_BYTES) {
    throw new LevelGridError('too-large', {
      found: `blocks that take ${blockBytes} bytes a row of them when they are decoded`,
      expected: `at most ${MAX_BLOCK_BYTES}`,
      remedy: 'Export it in smaller strips or tiles.',
    });
  }
}
