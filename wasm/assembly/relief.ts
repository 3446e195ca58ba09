// Tinted and shaded relief. Twin: src/core/relief/tinted.ts, in single precision step by step as here.

const LIGHT_Z: f32 = 0.70710678118654752;

/**
 * Draws `width` × `height` elevations (Float32, one sample of margin on every side) as RGBA: tinted by height from a
 * table of 1024 colours (RGBA), shaded from the north-west where `shaded`. NaN becomes `paper`. Groups of four pixels:
 * up to three beyond the end of a row are written and overwritten by the next one; 16 bytes behind the last must be free.
 */
export function tintedRelief(heights: usize, width: i32, height: i32, out: usize, ramp: usize, low: f32, tint: f32, slopeX: f32, slopeY: f32, shaded: i32, paper: u32): void {
  const stride: usize = (<usize>width + 2) << 2;
  const lows = f32x4.splat(low);
  const tints = f32x4.splat(tint);
  const last = f32x4.splat(1023);
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const half = f32x4.splat(0.5);
  const slopesX = f32x4.splat(-slopeX);
  const slopesY = f32x4.splat(-slopeY);
  const lightXY = f32x4.splat(-0.5);
  const lightZ = f32x4.splat(LIGHT_Z);
  const flat = f32x4.splat(<f32>1 / LIGHT_Z);
  const dark = f32x4.splat(0.38);
  const span = f32x4.splat(0.62);
  const bytes = i32x4.splat(255);
  const opaque = i32x4.splat(0xff000000);
  const papers = i32x4.splat(paper);
  for (let y = 0; y < height; y++) {
    let at = heights + <usize>(y + 1) * stride + 4;
    let to = out + ((<usize>y * <usize>width) << 2);
    for (let x = 0; x < width; x += 4) {
      const h = v128.load(at);
      const place = f32x4.pmax(zero, f32x4.pmin(last, f32x4.mul(f32x4.sub(h, lows), tints)));
      const index = i32x4.trunc_sat_f32x4_s(place);
      let c = v128.load_zero<u32>(ramp + ((<usize>i32x4.extract_lane(index, 0)) << 2));
      c = v128.load_lane<u32>(ramp + ((<usize>i32x4.extract_lane(index, 1)) << 2), c, 1);
      c = v128.load_lane<u32>(ramp + ((<usize>i32x4.extract_lane(index, 2)) << 2), c, 2);
      c = v128.load_lane<u32>(ramp + ((<usize>i32x4.extract_lane(index, 3)) << 2), c, 3);
      if (shaded) {
        const dx = orZero(f32x4.sub(v128.load(at + 4), v128.load(at - 4)));
        const dy = orZero(f32x4.sub(v128.load(at + stride), v128.load(at - stride)));
        const sx = f32x4.mul(dx, slopesX);
        const sy = f32x4.mul(dy, slopesY);
        const towards = f32x4.add(f32x4.add(f32x4.mul(sx, lightXY), f32x4.mul(sy, lightXY)), lightZ);
        const length = f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(sx, sx), f32x4.mul(sy, sy)), one));
        const f = f32x4.mul(f32x4.div(towards, length), flat);
        const shadow = f32x4.add(dark, f32x4.mul(span, f32x4.pmax(zero, f)));
        const light = f32x4.add(one, f32x4.mul(half, f32x4.sub(f, one)));
        const k = v128.bitselect(shadow, light, f32x4.lt(f, one));
        const r = channel(v128.and(c, bytes), k, bytes);
        const g = channel(v128.and(i32x4.shr_u(c, 8), bytes), k, bytes);
        const b = channel(v128.and(i32x4.shr_u(c, 16), bytes), k, bytes);
        c = v128.or(v128.or(r, i32x4.shl(g, 8)), i32x4.shl(b, 16));
      }
      c = v128.or(c, opaque);
      v128.store(to, v128.bitselect(c, papers, f32x4.eq(h, h)));
      at += 16;
      to += 16;
    }
  }
}

// @ts-ignore: decorator
@inline
function orZero(v: v128): v128 {
  return v128.and(v, f32x4.eq(v, v));
}

/** A colour channel times k, rounded half to even, at most 255. */
// @ts-ignore: decorator
@inline
function channel(c: v128, k: v128, most: v128): v128 {
  return i32x4.min_s(i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(f32x4.convert_i32x4_s(c), k))), most);
}
