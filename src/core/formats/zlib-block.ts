import { unzlibSync } from 'fflate';
import { LevelGridError } from '../base';
import { adler32 } from './deflate/adler';
import { KernelInflater } from './inflate';

/** Bytes that may lie behind the checksum of a block: some writers fill up to whole words. */
const MOST_PADDING = 8;

const damaged = (found: string, expected: string, cause?: unknown): LevelGridError =>
  new LevelGridError('corrupt', {
    found,
    expected,
    remedy: 'The file is damaged: export or copy it again.',
    ...(cause === undefined ? {} : { cause }),
  });

/** From this size on a kernel pays for being set up; below it the package is faster. */
const LEAST_FOR_KERNEL = 1 << 15;

/** Zlib data of one block into `size` bytes, its checksum compared; what goes on behind them is left out. */
export async function unzip(packed: Uint8Array, size: number): Promise<Uint8Array> {
  const inflater = size >= LEAST_FOR_KERNEL ? KernelInflater.create(once(packed), size) : null;
  if (!inflater) return unzipSmall(packed, size);
  const there = await inflater.fill(size);
  if (there < size) throw damaged(`a block that holds ${there} bytes`, `${size}`);
  const out = inflater.kernels.copy(inflater.from, size);
  inflater.skip(size);
  await inflater.finish();
  return out;
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

/** The package compares no checksum: that is done here. */
function unzipSmall(packed: Uint8Array, size: number): Uint8Array {
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
