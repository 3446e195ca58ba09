import { COLOUR_TYPES, type PngHeader } from './header';

/** What collapsing one picture to heights found, for the warnings. */
export interface CollapseTally {
  /** Pixels whose red, green and blue differ. */
  coloured: number;
  /** Pixels that are not fully opaque. */
  transparent: number;
}

/** Rec. ITU-R BT.709 luma; equal channels come through unchanged. */
function luma(r: number, g: number, b: number): number {
  return r === g && g === b ? r : Math.round(0.2126 * r + 0.7152 * g + 0.0722 * b);
}

/** Turns one unfiltered row into height samples, the picture's own codes. */
export function collapseRow(
  out: Uint8Array | Uint16Array,
  at: number,
  row: Uint8Array,
  header: PngHeader,
  width: number,
  palette: Uint8Array | null,
  tally: CollapseTally,
): void {
  const { bitDepth, colourType } = header;
  const channels = COLOUR_TYPES[colourType].samples;
  if (bitDepth < 8) {
    const mask = (1 << bitDepth) - 1;
    for (let x = 0, bit = 8 - bitDepth, i = 0; x < width; x++) {
      const code = (row[i]! >> bit) & mask;
      out[at + x] = colourType === 3 ? paletteCode(palette, code, tally) : code;
      bit -= bitDepth;
      if (bit < 0) {
        bit = 8 - bitDepth;
        i++;
      }
    }
    return;
  }
  if (colourType === 3) {
    for (let x = 0; x < width; x++) out[at + x] = paletteCode(palette, row[x]!, tally);
    return;
  }
  if (channels === 1) {
    if (bitDepth === 8) out.set(row.subarray(0, width), at);
    else for (let x = 0; x < width; x++) out[at + x] = (row[2 * x]! << 8) | row[2 * x + 1]!;
    return;
  }
  const wide = bitDepth === 16;
  const bytes = wide ? 2 : 1;
  const opaque = wide ? 65535 : 255;
  const read = (i: number): number => (wide ? (row[i]! << 8) | row[i + 1]! : row[i]!);
  for (let x = 0, i = 0; x < width; x++, i += channels * bytes) {
    const r = read(i);
    if (channels >= 3) {
      const g = read(i + bytes);
      const b = read(i + 2 * bytes);
      if (r !== g || g !== b) tally.coloured++;
      out[at + x] = luma(r, g, b);
    } else out[at + x] = r;
    if ((channels === 2 || channels === 4) && read(i + (channels - 1) * bytes) !== opaque) tally.transparent++;
  }
}

function paletteCode(palette: Uint8Array | null, index: number, tally: CollapseTally): number {
  const r = palette?.[index * 3] ?? 0;
  const g = palette?.[index * 3 + 1] ?? 0;
  const b = palette?.[index * 3 + 2] ?? 0;
  if (r !== g || g !== b) tally.coloured++;
  return luma(r, g, b);
}
