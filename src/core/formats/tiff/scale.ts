import type { ScaledHeights } from '../../raster';
import type { Directory } from './directory';

/** Bytes of such a text that are looked through. */
const MOST_TEXT = 2 ** 16;

/**
 * What a stored value is multiplied by and what is added, as the text in tag 42112 says it of the first channel: items of
 * XML with the roles *scale* and *offset*. Null where nothing is said, or nothing that changes a height.
 */
export async function readScale(directory: Directory): Promise<ScaledHeights | null> {
  const text = (await directory.text('metadata', MOST_TEXT)) ?? '';
  let factor = 1;
  let base = 0;
  for (const [, attributes = '', content = ''] of text.matchAll(/<Item\b([^>]*)>([^<]*)<\/Item>/gi)) {
    const of = (name: string): string | undefined => new RegExp(`\\b${name}="([^"]*)"`, 'i').exec(attributes)?.[1];
    if ((of('sample') ?? '0') !== '0') continue;
    const value = Number(content.trim());
    if (content.trim() === '' || !Number.isFinite(value)) continue;
    const role = of('role')?.toLowerCase();
    if (role === 'scale' && value !== 0) factor = value;
    else if (role === 'offset') base = value;
  }
  return factor === 1 && base === 0 ? null : { factor, base };
}
