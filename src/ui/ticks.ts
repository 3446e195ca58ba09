/** Round steps for an axis: 1, 2 or 5 times a power of ten, at most `count` of them. */
export function ticks(low: number, high: number, count: number): number[] {
  const rough = (high - low) / Math.max(1, count);
  if (!(rough > 0)) return [low];
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough * (1 - 1e-9)) ?? rough;
  const out: number[] = [];
  for (let t = Math.ceil(low / step - 1e-9) * step; t <= high + step * 1e-9; t += step)
    out.push(Math.abs(t) < step * 1e-9 ? 0 : t);
  return out;
}
