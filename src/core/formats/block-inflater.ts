import { unzlibSync } from 'fflate';
import { LevelGridError } from '../base';
import { InflateKernel, type Kernels } from '../wasm';
import { adler32 } from './deflate/adler';
import { damaged as damagedStream, isZlibHead } from './inflate';

/** The bytes of an unpacked block. They may be changed in place, and are good until the next block is unpacked. */
export interface Block {
  readonly bytes: Uint8Array;
  /** Where kernels can work on them: in whose memory they lie, and where as much room again begins. */
  readonly kernels: { readonly of: Kernels; readonly room: number } | null;
}

/** A block that lies where no kernel can work on it. */
export const plainBlock = (bytes: Uint8Array): Block => ({ bytes, kernels: null });

/** Bytes that may lie behind the checksum of a block: some writers fill up to whole words. */
const MOST_PADDING = 8;

const damaged = (found: string, expected: string, cause?: unknown): LevelGridError =>
  new LevelGridError('corrupt', {
    found,
    expected,
    remedy: 'The file is damaged: export or copy it again.',
    ...(cause === undefined ? {} : { cause }),
  });

/** Inflates zlib blocks (RFC 1950) one after the other, all in the same memory. */
export class BlockInflater {
  private inflater: InflateKernel | null = null;
  private most = 0;
  private room = 0;

  /** Zlib data of one block into `size` bytes, its checksum compared; what goes on behind them is left out. */
  unzip(packed: Uint8Array, size: number): Block {
    if (size > this.most) {
      this.inflater = InflateKernel.create(size);
      this.room = this.inflater?.kernels.take(size) ?? 0;
      this.most = size;
    }
    const { inflater, room } = this;
    if (!inflater) return plainBlock(unzipPlain(packed, size));
    inflater.restart();
    if (!isZlibHead(packed[0], packed[1])) throw damagedStream(packed.length < 2, 0);
    let at = 2;
    let last = false;
    let longer: Uint8Array | null = null;
    let skipped = 0;
    for (;;) {
      const status = inflater.run(last);
      if (status === 'finished') break;
      if (status === 'needs-input') {
        if (at < packed.length) at += inflater.push(packed.subarray(at));
        else last = true;
      } else if (status === 'output-full') {
        // the block goes on behind its end: what belongs to it is put aside, the rest passes by
        longer ??= inflater.kernels.copy(inflater.from, size);
        skipped += inflater.available;
        inflater.skip(inflater.available);
      } else throw damagedStream(status === 'cut-short', skipped + inflater.available);
    }
    if (!longer && inflater.available < size)
      throw damaged(`a block that holds ${inflater.available} bytes`, `${size}`);
    const left = inflater.rest();
    const stored = [...left.subarray(0, 4), ...packed.subarray(at, at + Math.max(0, 4 - left.length))];
    if (stored.length < 4) throw damagedStream(true, skipped + inflater.available);
    if (new DataView(Uint8Array.from(stored).buffer).getUint32(0) !== inflater.adler)
      throw damagedStream(false, skipped + inflater.available);
    if (longer) return plainBlock(longer);
    const { kernels, from } = inflater;
    return { bytes: kernels.u8.subarray(from, from + size), kernels: { of: kernels, room } };
  }
}

/** The same without kernels. The package compares no checksum: that is done here. */
export function unzipPlain(packed: Uint8Array, size: number): Uint8Array {
  let out: Uint8Array;
  try {
    // the room is given, so that no header can ask for more; one byte more tells a longer block
    out = unzlibSync(packed, { out: new Uint8Array(size + 1) });
  } catch (cause) {
    throw damaged('a compressed block that can’t be unpacked', 'zlib data', cause);
  }
  if (out.length < size) throw damaged(`a block that holds ${out.length} bytes`, `${size}`);
  const longer = out.length > size;
  out = out.subarray(0, size);
  if (longer) return out;
  const sum = adler32(out);
  for (let end = packed.length; end >= Math.max(6, packed.length - MOST_PADDING); end--) {
    const stored =
      (((packed[end - 4] ?? 0) << 24) |
        ((packed[end - 3] ?? 0) << 16) |
        ((packed[end - 2] ?? 0) << 8) |
        (packed[end - 1] ?? 0)) >>>
      0;
    if (stored === sum) return out;
  }
  throw new LevelGridError('checksum', {
    found: 'a compressed block whose checksum does not fit',
    expected: 'the bytes that were written',
    remedy: 'The file is damaged: copy or export it again.',
  });
}
