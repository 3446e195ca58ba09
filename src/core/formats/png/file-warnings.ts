import type { InflatedWhole } from '../../base';
import type { RasterWarning } from '../../raster';
import { rowBytes, type PngHeader } from './header';

/** Palettes that a picture of each colour type may hold: a colour picture may suggest one (PNG specification, 11.2.2). */
const PALETTES = { 0: 0, 2: 1, 3: 1, 4: 0, 6: 1 } as const;

/**
 * What is wrong with a file whose samples could all be read. `spare`: bytes of image data behind the last row. Other
 * programs may refuse such a file, or read something else in it.
 */
export function fileWarnings(found: InflatedWhole, spare: number, header: PngHeader): RasterWarning[] {
  const { closed, headers, palettes, unknown, split } = found;
  const warnings: RasterWarning[] = [];
  const allowed = PALETTES[header.colourType];
  if (palettes > allowed)
    warnings.push({
      code: 'palette',
      message:
        allowed === 0
          ? `The file holds ${palettes === 1 ? 'a palette' : `${palettes} palettes`}, which a grey picture can’t have; nothing of it is used. Export it again.`
          : `The file holds ${palettes} palettes where one is allowed; the first is used. Export it again.`,
    });
  if (headers > 1)
    warnings.push({
      code: 'structure',
      message: `The file holds ${headers} headers where one is allowed; the first is used. It may have been joined from several pictures: export it again.`,
    });
  if (unknown.length > 0)
    warnings.push({
      code: 'structure',
      message: `The file says that ${unknown.join(', ')} must be understood to show the picture, and Level Grid does not know ${unknown.length === 1 ? 'it' : 'them'}: heights may be other ones. Export it as a plain grey PNG.`,
    });
  if (split)
    warnings.push({
      code: 'structure',
      message:
        'Other data lies between pieces of the image data, which PNG does not allow; every sample could be read. Other programs may refuse the file: export it again.',
    });
  if (spare > 0) {
    const rows = header.interlaced ? 0 : Math.floor(spare / (rowBytes(header) + 1));
    warnings.push({
      code: 'structure',
      message: `The image data goes on behind the last of ${header.height} rows${rows > 0 ? `, for ${rows} more` : ` (${spare} bytes)`}: it is left out. Check that the picture has the height you expect.`,
    });
  }
  if (!closed)
    warnings.push({
      code: 'cut-short',
      message: 'The file ends before its closing chunk; every sample could be read.',
    });
  return warnings;
}
