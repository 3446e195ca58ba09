import { ENCODINGS, HELD_BY, type Encoding, type EncodingId, type FileFormat } from '../raster';
import { targetOf } from './built-in';
import type { Target } from './schema';

/** A target as it reads files of one encoding. */
export interface WrittenTarget extends Target {
  readonly encoding: Encoding;
}

/** Heights that floats tell apart between 0 and 1: as many as this at the upper end, and more below. */
const SHARES = 2 ** 24;

/** How heights are stored where a recipe says nothing else: 16 bits, or metres where a format holds floats only. */
export const usualEncoding = (format: FileFormat): EncodingId => HELD_BY[format][0] ?? 'u16';

/** The target of a recipe, its highest code that of the files that are written. */
export function writtenTarget({
  target: named,
  output,
}: {
  readonly target: string | Target;
  readonly output: { readonly format: FileFormat; readonly encoding?: EncodingId | undefined };
}): WrittenTarget {
  const target = targetOf(named);
  const encoding = ENCODINGS[output.encoding ?? usualEncoding(output.format)];
  const most = encoding.stores === 'codes' ? Math.min(target.highestCode, 2 ** encoding.bits - 1) : SHARES;
  return { ...target, highestCode: most, encoding };
}
