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
const usualEncoding = (format: FileFormat): EncodingId => HELD_BY[format][0] ?? 'u16';

/** How files for a target are written until something else is chosen: its first format and way of storing that go together. */
export function firstOutput({ formats, encodings, rows }: Target): {
  readonly format: FileFormat;
  readonly encoding?: EncodingId;
  readonly rows?: 'north' | 'south';
} {
  const format = formats.find((f) => encodings.some((id) => HELD_BY[f].includes(id))) ?? formats[0] ?? 'png';
  const encoding = encodings.find((id) => HELD_BY[format].includes(id));
  return {
    format,
    ...(encoding !== undefined && encoding !== usualEncoding(format) ? { encoding } : {}),
    ...(rows ? { rows } : {}),
  };
}

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
