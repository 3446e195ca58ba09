import { COLOUR_TYPES, type PngHeader } from './header';

/** What collapsing one picture to heights found, for the warnings. */
export interface CollapseTally {
  /** Pixels whose red, green and blue differ. */
  coloured: number;
  /** Pixels that are not fully opaque. */
  transparent: number;
  /** Pixels whose palette index has no colour. */
  beyondPalette: number;
}

/** Rec. ITU-R BT.709 luma; equal channels come through unchanged. */
function luma(r: number, g: number, b: number): number {
  return r === g && g === b ? r : Math.round(0.2126 * r + 0.7152 * g + 0.0722 * b);
}

/** Pixels that a tRNS chunk marks as having no value: voids. */
export type Transparency =
  | { readonly kind: 'grey'; readonly code: number }
  | { readonly kind: 'colour'; readonly red: number; readonly green: number; readonly blue: number }
  /** Palette entries without opacity, by index. */
  | { readonly kind: 'palette'; readonly entries: ReadonlySet<number> };

/**
 * Turns one unfiltered row into height samples, the picture's own codes. Where there is transparency, `out` must be
 * able to hold NaN.
 */
export function collapseRow(
  out: Uint8Array | Uint16Array | Float32Array,
  at: number,
  row: Uint8Array,
  header: PngHeader,
  width: number,
  palette: Uint8Array | null,
  tally: CollapseTally,
  voids: Transparency | null = null,
): void {
  const { bitDepth, colourType } = header;
  const channels = COLOUR_TYPES[colourType].samples;
  if (bitDepth < 8) {
    const mask = (1 << bitDepth) - 1;
    for (let x = 0, bit = 8 - bitDepth, i = 0; x < width; x++) {
      const code = (row[i]! >> bit) & mask;
      out[at + x] = colourType === 3 ? paletteCode(palette, code, tally, voids) : greyCode(code, voids);
      bit -= bitDepth;
      if (bit < 0) {
        bit = 8 - bitDepth;
        i++;
      }
    }
    return;
  }
  if (colourType === 3) {
    for (let x = 0; x < width; x++) out[at + x] = paletteCode(palette, row[x]!, tally, voids);
    return;
  }
  if (channels === 1) {
    if (bitDepth === 8) out.set(row.subarray(0, width), at);
    else for (let x = 0; x < width; x++) out[at + x] = (row[2 * x]! << 8) | row[2 * x + 1]!;
    if (voids) for (let x = at; x < at + width; x++) out[x] = greyCode(out[x]!, voids);
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
      const none = voids?.kind === 'colour' && r === voids.red && g === voids.green && b === voids.blue;
      out[at + x] = none ? NaN : luma(r, g, b);
    } else out[at + x] = r;
    if ((channels === 2 || channels === 4) && read(i + (channels - 1) * bytes) !== opaque) tally.transparent++;
  }
}

const greyCode = (code: number, voids: Transparency | null): number =>
  voids?.kind === 'grey' && voids.code === code ? NaN : code;

function paletteCode(
  palette: Uint8Array | null,
  index: number,
  tally: CollapseTally,
  voids: Transparency | null,
): number {
  if (voids?.kind === 'palette' && voids.entries.has(index)) return NaN;
  const at = index * 3;
  if (!palette || at + 2 >= palette.length) tally.beyondPalette++;
  const r = palette?.[at] ?? 0;
  const g = palette?.[at + 1] ?? 0;
  const b = palette?.[at + 2] ?? 0;
  if (r !== g || g !== b) tally.coloured++;
  return luma(r, g, b);
}
