/** The discrete Fourier transform of 2ⁿ numbers, in place. */
export function transform(re: Float64Array, im: Float64Array): void {
  const n = re.length;
  for (let i = 1, j = 0; i < n; i++) {
    let bit = n >> 1;
    for (; j & bit; bit >>= 1) j ^= bit;
    j ^= bit;
    if (i >= j) continue;
    [re[i], re[j]] = [re[j]!, re[i]!];
    [im[i], im[j]] = [im[j]!, im[i]!];
  }
  for (let length = 2; length <= n; length <<= 1)
    for (let k = 0; k < length / 2; k++) {
      const angle = (-2 * Math.PI * k) / length;
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      for (let i = k; i < n; i += length) {
        const m = i + length / 2;
        const [x, y] = [re[m]! * c - im[m]! * s, re[m]! * s + im[m]! * c];
        re[m] = re[i]! - x;
        im[m] = im[i]! - y;
        re[i]! += x;
        im[i]! += y;
      }
    }
}
