import { RAMP, RAMP_SIZE } from './ramp';
import { shadeDifference, type View } from './shade';

export type Rgb = readonly [number, number, number];

/** Ink of a map, paper around and under it, and the sheet on which differences are drawn. */
export interface MapColours {
  readonly ink: Rgb;
  readonly paper: Rgb;
  readonly sheet: Rgb;
}

export const MAP_COLOURS: Readonly<Record<'film' | 'night', MapColours>> = {
  film: { ink: [24, 36, 42], paper: [233, 237, 232], sheet: [246, 248, 244] },
  night: { ink: [228, 234, 229], paper: [18, 25, 28], sheet: [26, 35, 39] },
};

/** The colours of a view from its least value to its greatest, `n` of them, as RGBA: what a legend shows. A difference goes from −limit to +limit. */
export function swatch(view: View | 'difference', n: number, { ink, paper, sheet }: MapColours): Uint8ClampedArray {
  const out = new Uint8ClampedArray(n * 4);
  const share = Float32Array.from({ length: n }, (_, i) => (n > 1 ? i / (n - 1) : 0));
  if (view === 'difference') {
    shadeDifference(
      out,
      share.map((t) => 2 * t - 1),
      1,
      sheet,
    );
    return out;
  }
  share.forEach((t, i) => {
    const at = Math.round(t * (RAMP_SIZE - 1)) * 3;
    for (let c = 0; c < 3; c++)
      out[i * 4 + c] = view === 'slope' || view === 'steps' ? paper[c]! + (ink[c]! - paper[c]!) * t : RAMP[at + c]!;
    out[i * 4 + 3] = 255;
  });
  return out;
}
