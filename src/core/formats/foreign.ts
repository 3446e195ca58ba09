import { LevelGridError } from '../base';
import { begins, type FirstLook, type HeightFormat } from './format';

/** Files that are no height files, known by their first bytes: what they are, and the way round. */
const FOREIGN: readonly { readonly bytes: readonly number[]; readonly found: string; readonly remedy: string }[] = [
  {
    bytes: [0xff, 0xd8, 0xff],
    found: 'a JPEG picture, which keeps 8 bits at most and loses heights',
    remedy: 'Ask for the heights as PNG of 16 bits, TIFF or EXR where the picture came from.',
  },
  {
    bytes: [0x52, 0x49, 0x46, 0x46],
    found: 'a RIFF file (WebP pictures are one), which keeps 8 bits at most and may lose heights',
    remedy: 'Ask for the heights as PNG of 16 bits, TIFF or EXR where the picture came from.',
  },
  {
    bytes: [0x50, 0x4b, 3, 4],
    found: 'a zip archive',
    remedy: 'Unpack it, and bring the height file in by itself.',
  },
  {
    bytes: [0x38, 0x42, 0x50, 0x53],
    found: 'a layered picture of a paint program',
    remedy: 'Export the heights as grey PNG (16 bits) or TIFF.',
  },
  {
    bytes: [0x25, 0x50, 0x44, 0x46],
    found: 'a PDF document',
    remedy: 'Ask for the heights themselves, as PNG of 16 bits, TIFF or EXR.',
  },
];

/** The error for a file that none of these formats knows; the last of them knows its files by their endings alone. */
export function foreignFile({ head }: FirstLook, formats: readonly HeightFormat[]): LevelGridError {
  const names = formats.slice(0, -1).map((f) => f.name);
  const endings = formats.at(-1)?.endings.map((e) => `.${e}`) ?? [];
  const known = FOREIGN.find((f) => begins(head, ...f.bytes));
  const text = head.every((b) => b === 9 || b === 10 || b === 13 || (b >= 32 && b < 127));
  return new LevelGridError('unknown-format', {
    found: known?.found ?? (text ? 'plain text' : 'bytes that begin like no height file'),
    expected: `one of ${names.join(', ')}, or a headerless file with the ending ${endings.join(' ')}`,
    remedy:
      known?.remedy ?? 'Export the heights as grey PNG (16 bits) or RAW, or state the layout of a headerless file.',
  });
}
