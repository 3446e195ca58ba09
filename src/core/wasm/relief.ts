import { freshKernels, type Kernels } from './instance';

/** What a tinted view is drawn with: elevations of the ends of the ramp, and rise per metre of height difference. */
export interface Tinting {
  readonly low: number;
  /** Places of the ramp per metre. */
  readonly tint: number;
  /** 1 / (2 · spacing), times the exaggeration of the shading. */
  readonly slopeX: number;
  readonly slopeY: number;
  readonly shaded: boolean;
  readonly paper: readonly [number, number, number];
}

/** One set of kernels keeps the ramp in its memory. */
let drawing: { readonly k: Kernels; readonly ramp: number } | null | undefined;

function withRamp(ramp: Uint8ClampedArray): typeof drawing {
  if (drawing !== undefined) return drawing;
  const k = freshKernels();
  if (!k) return (drawing = null);
  const colours = new Uint8Array((ramp.length / 3) * 4);
  for (let i = 0; i < ramp.length / 3; i++) colours.set(ramp.subarray(i * 3, i * 3 + 3), i * 4);
  return (drawing = { k, ramp: k.put(colours) });
}

/** Tinted relief of a grid with one sample of margin; false without a kernel. `ramp`: 1024 colours, always the same. */
export function tintedReliefKernel(
  out: Uint8ClampedArray,
  heights: Float32Array,
  width: number,
  height: number,
  ramp: Uint8ClampedArray,
  t: Tinting,
): boolean {
  const there = withRamp(ramp);
  if (!there) return false;
  const { k } = there;
  const mark = k.mark();
  const from = k.put(heights);
  const to = k.take(width * height * 4);
  const [r, g, b] = t.paper;
  const paper = (r | (g << 8) | (b << 16) | 0xff000000) >>> 0;
  k.run.tintedRelief(from, width, height, to, there.ramp, t.low, t.tint, t.slopeX, t.slopeY, t.shaded ? 1 : 0, paper);
  out.set(k.u8.subarray(to, to + width * height * 4));
  k.release(mark);
  return true;
}
