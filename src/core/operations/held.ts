import { checkpoint, type JobContext } from '../base';
import type { OpenRaster, StoredBand } from '../raster';

/** Results held within the lowest and highest sample of the raster that they are made of, which is read once for them. */
export function held(made: OpenRaster, from: OpenRaster): OpenRaster {
  return {
    ...made,
    async *bands(job) {
      const { low, high } = await endsOf(from, job);
      for await (const band of made.bands(job)) yield within(band, low, high);
    },
  };
}

async function endsOf(raster: OpenRaster, job?: JobContext): Promise<{ low: number; high: number }> {
  let [low, high] = [Infinity, -Infinity];
  for await (const { data } of raster.bands(job?.signal ? { signal: job.signal } : undefined)) {
    checkpoint(job);
    for (let i = 0; i < data.length; i++) {
      const value = data[i] as number;
      if (value - value !== 0) continue;
      if (value < low) low = value;
      if (value > high) high = value;
    }
  }
  return { low, high };
}

function within(band: StoredBand, low: number, high: number): StoredBand {
  const data = band.data.slice();
  for (let i = 0; i < data.length; i++) {
    const value = data[i] as number;
    if (value < low) data[i] = low;
    else if (value > high) data[i] = high;
  }
  return { y: band.y, rows: band.rows, data };
}
