import type { RasterWarning } from '../../raster';

/** The curve on which a picture says that its codes lie: a power, or the one of sRGB. */
export type DisplayCurve = { readonly kind: 'power'; readonly power: number } | { readonly kind: 'sRGB' };

/** Powers this near to 1 are linear. */
const LINEAR_WITHIN = 0.02;

/** What a chunk says of a display curve (PNG specification, third edition, 11.3.2.2 and 11.3.2.5); null: nothing. */
export function displayCurveOf(type: string, data: Uint8Array): DisplayCurve | null {
  if (type === 'sRGB' && data.length === 1) return { kind: 'sRGB' };
  if (type !== 'gAMA' || data.length !== 4) return null;
  const stored = new DataView(data.buffer, data.byteOffset, 4).getUint32(0) / 100_000;
  const power = 1 / stored;
  return stored > 0 && power < 10 && Math.abs(power - 1) > LINEAR_WITHIN ? { kind: 'power', power } : null;
}

/** Light of a code of 0..1. sRGB: IEC 61966-2-1. */
function lightOf(curve: DisplayCurve, code: number): number {
  if (curve.kind === 'power') return code ** curve.power;
  return code <= 0.04045 ? code / 12.92 : ((code + 0.055) / 1.055) ** 2.4;
}

/** How far a height that was bent by the curve lies off at the most, as a share of the range. */
export function farthestOff(curve: DisplayCurve): number {
  let most = 0;
  for (let i = 0; i <= 1000; i++) most = Math.max(most, Math.abs(i / 1000 - lightOf(curve, i / 1000)));
  return most;
}

/** Many programs write such a chunk beside heights that are linear: it is a hint, and says so. */
export function curveWarning(curve: DisplayCurve): RasterWarning {
  const name = curve.kind === 'sRGB' ? 'sRGB' : `power ${Number(curve.power.toFixed(2))}`;
  return {
    code: 'display-curve',
    message: `The file says that its codes are colours on a display curve (${name}). Many programs write that beside heights that are linear; if yours bent the heights, they are up to ${Math.round(100 * farthestOff(curve))} % of the range off in between. Compare a place of known height; ask for an export without colour management.`,
  };
}
