// Sweeps of a thin plate between bounds. Twin: src/core/operations/heal-steps/relax.ts, sum after sum in the same order.

// @ts-ignore: decorator
@inline
function pair(a: f64, b: f64, own: f64): f64 {
  const sum = a + b;
  return sum == sum ? sum : 2 * own;
}

/** A height of a row; none beyond its ends. */
// @ts-ignore: decorator
@inline
function heightAt(row: usize, x: i32, width: i32): f64 {
  return x < 0 || x >= width ? NaN : load<f64>(row + (<usize>x << 3));
}

/** What the neighbours of a sample ask of it, whatever is missing. */
function askedAt(up2: usize, up: usize, own: usize, down: usize, down2: usize, x: i32, width: i32): f64 {
  const h = heightAt(own, x, width);
  const beside =
    pair(heightAt(own, x - 1, width), heightAt(own, x + 1, width), h) + pair(heightAt(up, x, width), heightAt(down, x, width), h);
  const across =
    pair(heightAt(up, x - 1, width), heightAt(down, x + 1, width), h) +
    pair(heightAt(up, x + 1, width), heightAt(down, x - 1, width), h);
  const beyond =
    pair(heightAt(own, x - 2, width), heightAt(own, x + 2, width), h) + pair(heightAt(up2, x, width), heightAt(down2, x, width), h);
  return 0.4 * beside - 0.1 * across - 0.05 * beyond;
}

/**
 * One sweep in place over `surface` (Float64, `width` × `height`): each sample that `flat` marks takes `share` of what its
 * neighbours asked of it before the sweep, and stays within `stored` (Float32 or Float64) less `below` and plus `above`, and
 * within lowest..highest. `rows`: four rows of scratch.
 */
export function plateSweep32(surface: usize, stored: usize, flat: usize, width: i32, height: i32, rows: usize, share: f64, below: f64, above: f64, lowest: f64, highest: f64): void {
  plateSweep<f32>(surface, stored, flat, width, height, rows, share, below, above, lowest, highest);
}

export function plateSweep64(surface: usize, stored: usize, flat: usize, width: i32, height: i32, rows: usize, share: f64, below: f64, above: f64, lowest: f64, highest: f64): void {
  plateSweep<f64>(surface, stored, flat, width, height, rows, share, below, above, lowest, highest);
}

function plateSweep<T>(surface: usize, stored: usize, flat: usize, width: i32, height: i32, rows: usize, share: f64, below: f64, above: f64, lowest: f64, highest: f64): void {
  const line: usize = <usize>width << 3;
  const none = rows + 3 * line;
  for (let x: usize = 0; x < line; x += 8) store<f64>(none + x, NaN);
  const near = f64x2.splat(0.4);
  const corner = f64x2.splat(0.1);
  const far = f64x2.splat(0.05);
  const part = f64x2.splat(share);
  const down_ = f64x2.splat(below);
  const up_ = f64x2.splat(above);
  const least = f64x2.splat(lowest);
  const most = f64x2.splat(highest);
  for (let y = 0; y < height; y++) {
    const into = surface + <usize>y * line;
    const own = rows + <usize>(y % 3) * line;
    memory.copy(own, into, line);
    const up = y > 0 ? rows + <usize>((y + 2) % 3) * line : none;
    const up2 = y > 1 ? rows + <usize>((y + 1) % 3) * line : none;
    const down = y + 1 < height ? into + line : none;
    const down2 = y + 2 < height ? into + 2 * line : none;
    const marks = flat + <usize>y * <usize>width;
    const held = stored + <usize>y * <usize>width * sizeof<T>();
    let x = 0;
    while (x < width) {
      const may = x + 1 < width ? <i32>load<u16>(marks + <usize>x) : <i32>load<u8>(marks + <usize>x);
      if (may == 0) {
        x += 2;
        continue;
      }
      const at: usize = <usize>x << 3;
      if (x > 1 && x < width - 3) {
        const h = v128.load(own + at);
        const beside = f64x2.add(
          f64x2.add(v128.load(own + at - 8), v128.load(own + at + 8)),
          f64x2.add(v128.load(up + at), v128.load(down + at)),
        );
        const across = f64x2.add(
          f64x2.add(v128.load(up + at - 8), v128.load(down + at + 8)),
          f64x2.add(v128.load(up + at + 8), v128.load(down + at - 8)),
        );
        const beyond = f64x2.add(
          f64x2.add(v128.load(own + at - 16), v128.load(own + at + 16)),
          f64x2.add(v128.load(up2 + at), v128.load(down2 + at)),
        );
        const asked = f64x2.sub(f64x2.sub(f64x2.mul(near, beside), f64x2.mul(corner, across)), f64x2.mul(far, beyond));
        if (v128.any_true(v128.not(f64x2.eq(asked, asked))) == false) {
          const value = f64x2.add(h, f64x2.mul(part, f64x2.sub(asked, h)));
          const own_ = sizeof<T>() == 4 ? f64x2.promote_low_f32x4(v128.load64_zero(held + (<usize>x << 2))) : v128.load(held + at);
          const low = f64x2.pmax(f64x2.sub(own_, down_), least);
          const high = f64x2.pmin(f64x2.add(own_, up_), most);
          const next = f64x2.pmin(f64x2.pmax(value, low), high);
          if (may == 0x0101) v128.store(into + at, next);
          else if ((may & 1) != 0) store<f64>(into + at, f64x2.extract_lane(next, 0));
          else store<f64>(into + at + 8, f64x2.extract_lane(next, 1));
          x += 2;
          continue;
        }
      }
      for (const end = min(x + 2, width); x < end; x++) {
        if (load<u8>(marks + <usize>x) == 0) continue;
        const place: usize = <usize>x << 3;
        const h = load<f64>(own + place);
        const value = h + share * (askedAt(up2, up, own, down, down2, x, width) - h);
        const own_ = <f64>load<T>(held + <usize>x * sizeof<T>());
        const low = own_ - below > lowest ? own_ - below : lowest;
        const high = own_ + above < highest ? own_ + above : highest;
        store<f64>(into + place, value < low ? low : value > high ? high : value);
      }
    }
  }
}
