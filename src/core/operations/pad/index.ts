import type * as z from 'zod';
import { formatLength, formatShort, LevelGridError } from '../../base';
import { checkWhole, floatsFor } from '../heights';
import { afterMove } from '../moved';
import { ORDER, type Operation } from '../operation';
import { memoryRaster, type OpenRaster, type RasterInfo } from '../../raster';
import type { padSchema } from './schema';

interface Resolved {
  /** In samples. */
  readonly north: number;
  readonly east: number;
  readonly south: number;
  readonly west: number;
  /** An elevation in samples of the stage, or how the ground goes on. */
  readonly with: number | 'edge' | 'mirror';
}

/** The ground before and after. */
const HELD = { heights: 2, bytes: 0 };

/** The sample that stands for one beyond an edge; `n` along the axis. Mirrored about the outermost, which is not repeated. */
function within(i: number, n: number, how: 'edge' | 'mirror'): number {
  if (i >= 0 && i < n) return i;
  if (how === 'edge' || n === 1) return i < 0 ? 0 : n - 1;
  const period = 2 * (n - 1);
  const k = ((i % period) + period) % period;
  return k < n ? k : period - k;
}

/** Ground added around the ground. */
export const pad: Operation<z.infer<typeof padSchema>, Resolved> = {
  words: ({ by, with: how }) => {
    const sides = (['north', 'east', 'south', 'west'] as const)
      .filter((side) => by[side] > 0)
      .map((side) => `${formatLength(by[side])} ${side}`);
    const what = how === 'edge' ? 'its edge' : how === 'mirror' ? 'mirrored ground' : `${formatShort(how)} m`;
    return `padded with ${what}: ${sides.length > 0 ? sides.join(', ') : 'nowhere'}`;
  },
  order: ORDER.heights,
  elsewhere: true,
  plan: (stage, { by, with: how }, { sampleOf }) => {
    const samples = (metres: number): number => Math.round(metres / stage.spacing);
    const { info } = stage;
    const sides = {
      north: samples(by.north),
      east: samples(by.east),
      south: samples(by.south),
      west: samples(by.west),
    };
    const [width, height] = [info.width + sides.west + sides.east, info.height + sides.north + sides.south];
    if (Math.max(width, height) > 65535)
      throw new LevelGridError('too-large', {
        found: `ground of ${width} × ${height} samples when it is padded`,
        expected: 'at most 65535 samples a side',
        remedy: 'Pad by less.',
      });
    checkWhole({ ...info, width, height }, 'padding', HELD);
    return {
      stage: {
        ...afterMove(stage, 'padding', { column: -sides.west, row: -sides.north, width, height }),
        mended: true,
      },
      resolved: { ...sides, with: typeof how === 'number' ? sampleOf(stage, how) : how },
    };
  },
  open: ({ base, orientation }, resolved, stage) => {
    const { north, east, south, west } = resolved;
    const { width, height } = stage.info;
    const size = { column: -west, row: -north, width: width + west + east, height: height + north + south };
    return { base: padded(base, afterMove(stage, 'padding', size).info, resolved), orientation, files: null };
  },
};

function padded(base: OpenRaster, info: RasterInfo, { north, west, with: how }: Resolved): OpenRaster {
  return {
    ...base,
    info,
    async *bands(job) {
      const { width, height } = base.info;
      const inner = floatsFor(base.info, width * height);
      for await (const { y, data } of base.bands(job)) inner.set(data, y * width);
      const out = floatsFor(info, info.width * info.height);
      for (let r = 0; r < info.height; r++) {
        const line = out.subarray(r * info.width, (r + 1) * info.width);
        const y = r - north;
        if (typeof how === 'number') {
          line.fill(how);
          if (y >= 0 && y < height) line.set(inner.subarray(y * width, (y + 1) * width), west);
          continue;
        }
        const row = within(y, height, how) * width;
        for (let c = 0; c < info.width; c++) line[c] = inner[row + within(c - west, width, how)]!;
      }
      yield* memoryRaster(info, out).bands(job);
    },
  };
}
