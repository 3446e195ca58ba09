import { LevelGridError } from '../../base';

/**
 * Undoes a row filter in place (PNG specification, 9.2). `row` holds the filtered bytes, `above` the finished row
 * over it (zeros for the first), `bpp` the bytes of a whole pixel, at least 1.
 */
export function unfilterRow(filter: number, row: Uint8Array, above: Uint8Array, bpp: number): void {
  const n = row.length;
  switch (filter) {
    case 0:
      return;
    case 1:
      for (let i = bpp; i < n; i++) row[i] = row[i]! + row[i - bpp]!;
      return;
    case 2:
      for (let i = 0; i < n; i++) row[i] = row[i]! + above[i]!;
      return;
    case 3:
      for (let i = 0; i < bpp && i < n; i++) row[i] = row[i]! + (above[i]! >> 1);
      for (let i = bpp; i < n; i++) row[i] = row[i]! + ((row[i - bpp]! + above[i]!) >> 1);
      return;
    case 4:
      for (let i = 0; i < bpp && i < n; i++) row[i] = row[i]! + above[i]!;
      for (let i = bpp; i < n; i++) row[i] = row[i]! + paeth(row[i - bpp]!, above[i]!, above[i - bpp]!);
      return;
    default:
      throw unknownFilter(filter);
  }
}

export function unknownFilter(filter: number): LevelGridError {
  return new LevelGridError('corrupt', {
    found: `row filter ${filter}`,
    expected: '0 to 4',
    remedy: 'The file is damaged: copy or export it again.',
  });
}

/**
 * Filtered rows of 16-bit grey (filter byte + row each) as samples. `above` holds the bytes of the row before and is
 * replaced by the last row.
 */
export function unfilter16(filtered: Uint8Array, width: number, rows: number, above: Uint8Array): Uint16Array {
  const out = new Uint16Array(rows * width);
  const stride = width * 2 + 1;
  for (let r = 0; r < rows; r++) {
    const row = filtered.subarray(r * stride + 1, (r + 1) * stride);
    unfilterRow(filtered[r * stride]!, row, above, 2);
    for (let x = 0; x < width; x++) out[r * width + x] = (row[2 * x]! << 8) | row[2 * x + 1]!;
    above.set(row);
  }
  return out;
}

/** The neighbour nearest to a + b − c, ties to a, then b (A. Paeth, 1991). */
function paeth(a: number, b: number, c: number): number {
  const pa = Math.abs(b - c);
  const pb = Math.abs(a - c);
  const pc = Math.abs(a + b - c - c);
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
}

/**
 * Filters `row` with sub, up and Paeth and keeps the one with the least sum of absolute differences (the rule the
 * PNG specification recommends, 12.8; on terrain it is Paeth nearly always). Writes filter byte + row to `out` at
 * `at` and returns the filter.
 */
export function filterRow(out: Uint8Array, at: number, row: Uint8Array, above: Uint8Array, bpp: number): number {
  const n = row.length;
  let sub = 0;
  let up = 0;
  let pae = 0;
  for (let i = 0; i < n; i++) {
    const x = row[i]!;
    const b = above[i]!;
    const a = i >= bpp ? row[i - bpp]! : 0;
    const c = i >= bpp ? above[i - bpp]! : 0;
    const pa = Math.abs(b - c);
    const pb = Math.abs(a - c);
    const pc = Math.abs(a + b - c - c);
    const p = pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
    sub += Math.abs(((x - a) << 24) >> 24);
    up += Math.abs(((x - b) << 24) >> 24);
    pae += Math.abs(((x - p) << 24) >> 24);
  }
  const filter = pae <= sub && pae <= up ? 4 : up <= sub ? 2 : 1;
  out[at] = filter;
  const to = at + 1;
  if (filter === 2) {
    for (let i = 0; i < n; i++) out[to + i] = row[i]! - above[i]!;
    return filter;
  }
  for (let i = 0; i < bpp; i++) out[to + i] = row[i]! - (filter === 4 ? above[i]! : 0);
  if (filter === 1) for (let i = bpp; i < n; i++) out[to + i] = row[i]! - row[i - bpp]!;
  else for (let i = bpp; i < n; i++) out[to + i] = row[i]! - paeth(row[i - bpp]!, above[i]!, above[i - bpp]!);
  return filter;
}
