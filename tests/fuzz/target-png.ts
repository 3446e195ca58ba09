import sharp from 'sharp';
import type { LevelGridError } from '../../src/core/base';
import { memorySource } from '../../src/core/base';
import { openHeightFile } from '../../src/core/formats';
import { countSource } from '../../src/core/run';
import type { Chance } from './chance';
import { bentPicture } from './png-file';
import { ours, type Target } from './target';

interface Read {
  readonly samples: Float64Array;
  readonly bitDepth: number;
  readonly channels: number;
  readonly warnings: readonly string[];
}

async function read(bytes: Uint8Array): Promise<Read> {
  const source = memorySource('tarn.png', bytes);
  const opened = await openHeightFile(source);
  const { width, height, bitDepth, channels } = opened.info;
  const samples = new Float64Array(width * height);
  let rows = 0;
  for await (const band of opened.bands()) {
    samples.set(band.data, band.y * width);
    rows += band.rows;
  }
  if (rows !== height) throw new Error(`${rows} of ${height} rows came`);
  const { facts } = await countSource(source, undefined);
  const voids = samples.reduce((n, v) => n + (Number.isNaN(v) ? 1 : 0), 0);
  if (facts.stats?.voids !== voids) throw new Error(`${facts.stats?.voids} voids were counted, there are ${voids}`);
  const codes = new Set(samples.filter((v) => !Number.isNaN(v)));
  if (facts.stats.distinctCodes !== codes.size)
    throw new Error(`${facts.stats.distinctCodes} codes, not ${codes.size}`);
  const warnings = facts.warnings
    .map((w) => w.code)
    .filter((c) => c === 'palette' || c === 'structure' || c === 'cut-short');
  return { samples, bitDepth, channels, warnings };
}

/** The same picture by a reader of somebody else's; null where that refuses it. Heights follow from what it hands out. */
async function elsewhere(bytes: Uint8Array, { bitDepth, channels }: Read): Promise<Float64Array | null> {
  const deep = bitDepth === 16;
  const grey = channels < 3 && bytes[25] !== 3;
  try {
    const { data, info } = await sharp(bytes, { failOn: 'error' })
      .toColourspace(deep ? (grey ? 'grey16' : 'rgb16') : 'srgb')
      .raw({ depth: deep ? 'ushort' : 'uchar' })
      .toBuffer({ resolveWithObject: true });
    const values = deep ? new Uint16Array(new Uint8Array(data).buffer) : data;
    const n = info.channels;
    const whole = 2 ** bitDepth - 1;
    // an alpha channel of the file is left out; one that stands for a transparent colour makes voids
    const holes = (n === 2 || n === 4) && !(channels === 2 || channels === 4);
    return Float64Array.from({ length: info.width * info.height }, (_, i) => {
      if (holes && values[i * n + n - 1] === 0) return NaN;
      const at = (c: number): number => values[i * n + c]!;
      // grey of few bits is handed out stretched over eight
      if (grey) return bitDepth < 8 ? Math.round((at(0) * whole) / 255) : at(0);
      const [r, g, b] = [at(0), at(1), at(2)];
      return r === g && g === b ? r : Math.round(0.2126 * r + 0.7152 * g + 0.0722 * b);
    });
  } catch {
    return null;
  }
}

export const png: Target<Uint8Array> = {
  name: 'png',
  make: (chance: Chance) => bentPicture(chance),
  async check(bytes, count) {
    let mine: Read;
    try {
      mine = await read(bytes);
    } catch (reason) {
      ours(reason);
      if ((reason as LevelGridError).code === 'internal') throw reason;
      return 'refused';
    }
    const other = await elsewhere(bytes, mine);
    if (!other) {
      // a file that is right in every way is read by everybody
      count(
        mine.warnings.length > 0
          ? 'read here, with a warning, and refused elsewhere'
          : 'read here and refused elsewhere',
      );
      return 'accepted';
    }
    const { samples } = mine;
    const differ =
      samples.length !== other.length ? 0 : samples.findIndex((v, i) => !Object.is(v, other[i]) && v !== other[i]);
    if (differ >= 0 && mine.warnings.length === 0)
      throw new Error(
        `sample ${differ} is ${samples[differ]}, elsewhere ${other[differ]} (${samples.length}, ${other.length})`,
      );
    count(differ >= 0 ? 'read otherwise elsewhere, with a warning' : 'the same elsewhere');
    return 'accepted';
  },
};
