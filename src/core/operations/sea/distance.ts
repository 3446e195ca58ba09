/**
 * The square of the distance from each sample to the nearest one that is marked, in samples: exact (P. Felzenszwalb and
 * D. Huttenlocher, Distance transforms of sampled functions, 2012), a pass along columns and one along rows. Infinite where
 * none is marked.
 */
export function squaredDistances(marked: Uint8Array, width: number, height: number): Float32Array {
  const out = new Float32Array(marked.length);
  const longest = Math.max(width, height);
  const f = new Float64Array(longest);
  const d = new Float64Array(longest);
  const at = new Int32Array(longest);
  const from = new Float64Array(longest + 1);
  // along columns, all side by side: steps since the last mark, from the north and from the south
  for (let i = 0; i < width; i++) out[i] = marked[i] ? 0 : Infinity;
  for (let i = width; i < out.length; i++) out[i] = marked[i] ? 0 : out[i - width]! + 1;
  for (let i = out.length - width - 1; i >= 0; i--) if (out[i + width]! + 1 < out[i]!) out[i] = out[i + width]! + 1;
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) f[x] = out[y * width + x]! ** 2;
    lowerEnvelope(f, d, at, from, width);
    out.set(d.subarray(0, width), y * width);
  }
  return out;
}

/** `d[q] = min over p of f[p] + (q − p)²`, by the lower envelope of the parabolas. */
function lowerEnvelope(f: Float64Array, d: Float64Array, at: Int32Array, from: Float64Array, n: number): void {
  let k = -1;
  for (let q = 0; q < n; q++) {
    if (f[q] === Infinity) continue;
    let s = -Infinity;
    while (k >= 0) {
      const p = at[k]!;
      s = (f[q]! + q * q - (f[p]! + p * p)) / (2 * (q - p));
      if (s > from[k]!) break;
      k--;
    }
    if (k < 0) s = -Infinity;
    k++;
    at[k] = q;
    from[k] = s;
    from[k + 1] = Infinity;
  }
  if (k < 0) {
    d.fill(Infinity, 0, n);
    return;
  }
  k = 0;
  for (let q = 0; q < n; q++) {
    while (from[k + 1]! < q) k++;
    const p = at[k]!;
    d[q] = (q - p) ** 2 + f[p]!;
  }
}
