import { KernelInflater } from './kernel-inflater';
import { portable } from './portable';

export { damaged, isZlibHead } from './framing';
export { KernelInflater } from './kernel-inflater';
export { portable } from './portable';

/** Bytes handed on at once. */
const PIECE = 1 << 18;

/**
 * Zlib data inflated as it comes, piece by piece. Ends after the zlib stream; throws `corrupt` for damaged data and
 * `truncated` where the stream does not end.
 */
export async function* inflate(pieces: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array, void, undefined> {
  const inflater = KernelInflater.create(pieces, PIECE);
  if (!inflater) {
    yield* portable(pieces);
    return;
  }
  for (;;) {
    const there = Math.min(PIECE, await inflater.fill(1));
    if (there === 0) break;
    yield inflater.kernels.copy(inflater.from, there);
    inflater.skip(there);
  }
  await inflater.finish();
}
