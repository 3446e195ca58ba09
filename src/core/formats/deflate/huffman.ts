/** Longest code that deflate allows (RFC 1951, 3.2.7). */
export const MAX_BITS = 15;

/**
 * Code lengths of a length-limited prefix code: Huffman's two-queue construction over symbols sorted by frequency
 * (ties by symbol, so that the result is the same everywhere), then codes that are too long are shortened at the cost
 * of the least frequent ones that are not, until Kraft's sum fits. Symbols of frequency 0 get length 0.
 */
export function codeLengths(frequencies: Uint32Array, count: number, limit: number, lengths: Uint8Array): void {
  lengths.fill(0, 0, count);
  // symbols by frequency: (frequency, symbol) packed so that a plain numeric sort orders both
  const keys = new Float64Array(count);
  let used = 0;
  for (let s = 0; s < count; s++) if (frequencies[s]! > 0) keys[used++] = frequencies[s]! * 512 + s;
  if (used === 0) return;
  const sorted = keys.subarray(0, used).sort();
  if (used === 1) {
    lengths[sorted[0]! % 512] = 1;
    return;
  }
  const nodes = 2 * used - 1;
  const weight = new Float64Array(nodes);
  const parent = new Int32Array(nodes);
  for (let i = 0; i < used; i++) weight[i] = Math.floor(sorted[i]! / 512);
  let leaf = 0;
  let inner = used;
  for (let next = used; next < nodes; next++) {
    let sum = 0;
    for (let k = 0; k < 2; k++) {
      const takeLeaf = leaf < used && (inner >= next || weight[leaf]! <= weight[inner]!);
      const chosen = takeLeaf ? leaf++ : inner++;
      sum += weight[chosen]!;
      parent[chosen] = next;
    }
    weight[next] = sum;
  }
  // depth of each node from the root down; leaves too deep are held at the limit
  const depth = new Int32Array(nodes);
  const perLength = new Int32Array(limit + 1);
  for (let i = nodes - 2; i >= 0; i--) {
    depth[i] = depth[parent[i]!]! + 1;
    if (i < used) {
      const d = Math.min(limit, depth[i]!);
      perLength[d] = perLength[d]! + 1;
    }
  }
  let kraft = 0;
  for (let l = 1; l <= limit; l++) kraft += perLength[l]! * 2 ** (limit - l);
  while (kraft > 2 ** limit) {
    // one code of the longest length that is not yet the limit is lengthened by one
    let l = limit - 1;
    while (perLength[l] === 0) l--;
    perLength[l] = perLength[l]! - 1;
    perLength[l + 1] = perLength[l + 1]! + 1;
    kraft -= 2 ** (limit - l - 1);
  }
  // what that gave away too much goes back to the longest codes: readers refuse a code that is not full
  for (let l = limit; l > 1; l--) {
    const size = 2 ** (limit - l);
    while (perLength[l]! > 0 && kraft + size <= 2 ** limit) {
      perLength[l] = perLength[l]! - 1;
      perLength[l - 1] = perLength[l - 1]! + 1;
      kraft += size;
    }
  }
  // the least frequent symbols take the longest codes
  let at = 0;
  for (let l = limit; l >= 1; l--) for (let n = perLength[l]!; n > 0; n--) lengths[sorted[at++]! % 512] = l;
}

/** Canonical codes (RFC 1951, 3.2.2), bits reversed because deflate sends codes from their top bit. */
export function canonicalCodes(lengths: Uint8Array, count: number, codes: Uint16Array): void {
  const perLength = new Uint16Array(MAX_BITS + 2);
  for (let s = 0; s < count; s++) perLength[lengths[s]!] = perLength[lengths[s]!]! + 1;
  perLength[0] = 0;
  const next = new Uint16Array(MAX_BITS + 2);
  let code = 0;
  for (let l = 1; l <= MAX_BITS; l++) {
    code = (code + perLength[l - 1]!) << 1;
    next[l] = code;
  }
  for (let s = 0; s < count; s++) {
    const l = lengths[s]!;
    if (l === 0) continue;
    let value = next[l]!;
    next[l] = value + 1;
    let reversed = 0;
    for (let k = 0; k < l; k++) {
      reversed = (reversed << 1) | (value & 1);
      value >>= 1;
    }
    codes[s] = reversed;
  }
}
