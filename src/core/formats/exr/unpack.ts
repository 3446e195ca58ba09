import { LevelGridError } from '../../base';
import { plainBlock, type Block, type BlockInflater } from '../block-inflater';
import { sumBytes, weaveHalves } from '../running-sums';
import { COMPRESSIONS } from './header';
import { unpiz, type PizChannel } from './piz';

const damaged = (found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy: 'The file is damaged: export or copy it again.' });

/**
 * Unpacks one block to exactly `size` bytes, as rows of channels; they are good until the next one is unpacked.
 * `channels`: what PIZ needs to know of them.
 */
export function unpackBlock(
  compression: number,
  packed: Uint8Array,
  size: number,
  channels: readonly PizChannel[],
  inflater: BlockInflater,
): Uint8Array {
  // a block that would not shrink is stored as it is
  if (compression === 0 || packed.length === size) {
    if (packed.length !== size) throw damaged(`a block of ${packed.length} bytes`, `${size}`);
    return packed;
  }
  if (packed.length > size)
    throw damaged(`a block of ${packed.length} bytes, longer than what it holds`, `at most ${size}`);
  const name = COMPRESSIONS[compression]?.name;
  if (name === 'PIZ') return unpiz(packed, size, channels);
  return rejoin(name === 'RLE' ? plainBlock(unrle(packed, size)) : inflater.unzip(packed, size));
}

/** Runs of bytes: a count from 0 repeats one byte count + 1 times, a negative one is followed by −count bytes. */
function unrle(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let to = 0;
  for (let at = 0; at < packed.length;) {
    const count = ((packed[at++] as number) << 24) >> 24;
    if (count < 0) {
      const part = packed.subarray(at, at - count);
      if (part.length < -count || to - count > size)
        throw damaged('runs that go on behind their block', `${size} bytes`);
      out.set(part, to);
      to -= count;
      at -= count;
    } else {
      if (at >= packed.length || to + count + 1 > size)
        throw damaged('runs that go on behind their block', `${size} bytes`);
      out.fill(packed[at++] as number, to, to + count + 1);
      to += count + 1;
    }
  }
  if (to !== size) throw damaged(`a block that holds ${to} bytes`, `${size}`);
  return out;
}

/** Undoes the byte differences, and joins the two halves into which even and odd bytes were sorted. */
function rejoin(block: Block): Uint8Array {
  sumBytes(block, 0, block.bytes.length, -128);
  return weaveHalves(block);
}
