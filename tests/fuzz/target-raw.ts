import { memorySource } from '../../src/core/base';
import { openHeightFile, bytesOfRaw, type RawLayout } from '../../src/core/formats';
import { countSource } from '../../src/core/run';
import type { Chance } from './chance';
import { ours, type Target } from './target';

const TYPES = ['u8', 'u16', 'i16', 'u32', 'i32', 'f32'] as const;

interface Input {
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** Terrain in some layout, noise, or a mixture of both, of any length. */
function anyBytes(chance: Chance): Input {
  const name = chance.one(['tarn.raw', 'tarn.r16', 'tarn.R8', 'tarn.bin', 'tarn.dat', 'tarn']);
  if (chance.in(4)) return { name, bytes: chance.bytes(chance.whole(0, 700)) };
  const side = chance.whole(1, 24);
  const width = chance.in(2) ? side : chance.whole(1, 40);
  const type = chance.one(TYPES);
  const size = Number(type.slice(1)) / 8;
  const skip = chance.in(4) ? chance.whole(0, 64) : 0;
  const bytes = new Uint8Array(skip + width * side * size + (chance.in(8) ? chance.whole(0, 9) : 0));
  const view = new DataView(bytes.buffer);
  const little = chance.in(2);
  const rough = chance.next();
  const scale = type === 'f32' ? chance.one([1, 4000, 1e30]) : 2 ** (8 * size - 2);
  for (let i = 0; i < width * side; i++) {
    const h =
      (Math.sin((i % width) * 0.3) + Math.cos(Math.floor(i / width) * 0.2) + rough * chance.next()) * scale * 0.5;
    const at = skip + i * size;
    if (type === 'u8') view.setUint8(at, Math.abs(h) & 255);
    else if (size === 2) view.setInt16(at, Math.round(h), little);
    else if (type === 'f32') view.setFloat32(at, chance.in(500) ? chance.one([NaN, Infinity, -Infinity]) : h, little);
    else view.setInt32(at, Math.round(h), little);
  }
  return { name, bytes };
}

/** A sample by the layout, taken straight from the bytes. */
function sampleOf(bytes: Uint8Array, { type, byteOrder, skip }: RawLayout, i: number): number {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const little = byteOrder === 'little';
  const at = skip + i * (Number(type.slice(1)) / 8);
  if (type === 'u8') return view.getUint8(at);
  if (type === 'i8') return view.getInt8(at);
  if (type === 'u16') return view.getUint16(at, little);
  if (type === 'i16') return view.getInt16(at, little);
  if (type === 'u32') return view.getUint32(at, little);
  if (type === 'i32') return view.getInt32(at, little);
  return type === 'f32' ? view.getFloat32(at, little) : view.getFloat64(at, little);
}

export const headerless: Target<Input> = {
  name: 'raw guess',
  make: anyBytes,
  async check({ name, bytes }, count) {
    try {
      const source = memorySource(name, bytes);
      const opened = await openHeightFile(source);
      const { layout, guess, info } = opened;
      if (!layout || bytesOfRaw(layout) !== bytes.length)
        throw new Error(`a layout that does not fit ${bytes.length} bytes: ${JSON.stringify(layout)}`);
      for await (const { y, rows, data } of opened.bands())
        for (let i = 0; i < rows * info.width; i++) {
          const there = sampleOf(bytes, layout, y * info.width + i);
          const here = data[i]!;
          if (!Object.is(there, here) && Math.fround(there) !== Math.fround(here) && Number.isFinite(there))
            throw new Error(`sample ${i} of row ${y} is ${here}, in the file ${there}`);
        }
      await countSource(source, undefined);
      count(guess && guess.lead > 0.3 ? 'a sure guess' : 'an unsure guess');
      return 'accepted';
    } catch (reason) {
      ours(reason);
      return 'refused';
    }
  },
};
