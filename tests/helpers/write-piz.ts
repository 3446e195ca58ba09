interface Shape {
  readonly words: number;
  readonly width: number;
  readonly height: number;
}

/** A block packed with PIZ: forward wavelet and Huffman codes, from the description of the format. */
export function pizBlock(rows: Uint16Array, channels: readonly Shape[]): Buffer {
  // rows of channels become channels of rows
  const words = new Uint16Array(rows.length);
  let start = 0;
  const starts = channels.map((c) => {
    const here = start;
    start += c.words * c.width * c.height;
    return here;
  });
  let from = 0;
  const height = channels[0]?.height ?? 0;
  for (let y = 0; y < height; y++)
    channels.forEach((c, i) => {
      const n = c.words * c.width;
      words.set(rows.subarray(from, from + n), (starts[i] ?? 0) + y * n);
      from += n;
    });
  // the values that occur; 0 is always taken as one of them and is not marked
  const bitmap = new Uint8Array(8192);
  for (const w of words) bitmap[w >> 3]! |= 1 << (w & 7);
  bitmap[0]! &= ~1;
  let first = 0;
  while (first < 8192 && bitmap[first] === 0) first++;
  let last = 8191;
  while (last >= 0 && bitmap[last] === 0) last--;
  const empty = last < 0;
  const place = new Uint16Array(65536);
  let n = 0;
  for (let v = 0; v < 65536; v++) if (v === 0 || bitmap[v >> 3]! & (1 << (v & 7))) place[v] = n++;
  words.forEach((w, i) => (words[i] = place[w]!));
  channels.forEach((c, i) => {
    for (let j = 0; j < c.words; j++)
      wave(words.subarray(starts[i]! + j), c.width, c.words, c.height, c.width * c.words, n - 1);
  });
  const codes = huffman(words);
  const head = Buffer.alloc(4);
  head.writeUInt16LE(empty ? 8191 : first, 0);
  head.writeUInt16LE(empty ? 0 : last, 2);
  const size = Buffer.alloc(4);
  size.writeInt32LE(codes.length);
  return Buffer.concat([head, ...(empty ? [] : [bitmap.subarray(first, last + 1)]), size, codes]);
}

const int16 = (v: number): number => (v << 16) >> 16;

function split14(a: number, b: number): [number, number] {
  const [x, y] = [int16(a), int16(b)];
  return [((x + y) >> 1) & 0xffff, (x - y) & 0xffff];
}

function split16(a: number, b: number): [number, number] {
  const ao = (a + 0x8000) & 0xffff;
  let m = (ao + b) >> 1;
  let d = ao - b;
  if (d < 0) m = (m + 0x8000) & 0xffff;
  d &= 0xffff;
  return [m, d];
}

/** From the finest level to the coarsest. */
function wave(v: Uint16Array, nx: number, ox: number, ny: number, oy: number, highest: number): void {
  const split = highest < 1 << 14 ? split14 : split16;
  const n = Math.min(nx, ny);
  for (let p = 1, p2 = 2; p2 <= n; p = p2, p2 <<= 1) {
    let py = 0;
    for (; py <= oy * (ny - p2); py += oy * p2) {
      let px = py;
      for (; px <= py + ox * (nx - p2); px += ox * p2) {
        const [p01, p10] = [px + ox * p, px + oy * p];
        const p11 = p10 + ox * p;
        const [i00, i01] = split(v[px]!, v[p01]!);
        const [i10, i11] = split(v[p10]!, v[p11]!);
        [v[px], v[p10]] = split(i00, i10);
        [v[p01], v[p11]] = split(i01, i11);
      }
      if (nx & p) [v[px], v[px + oy * p]] = split(v[px]!, v[px + oy * p]!);
    }
    if (ny & p)
      for (let px = py; px <= py + ox * (nx - p2); px += ox * p2)
        [v[px], v[px + ox * p]] = split(v[px]!, v[px + ox * p]!);
  }
}

class BitWriter {
  private readonly bits: number[] = [];
  put(value: number, count: number): void {
    for (let i = count - 1; i >= 0; i--) this.bits.push(Math.floor(value / 2 ** i) % 2);
  }
  get length(): number {
    return this.bits.length;
  }
  bytes(): Buffer {
    const out = Buffer.alloc(Math.ceil(this.bits.length / 8));
    this.bits.forEach((b, i) => (out[i >> 3]! |= b << (7 - (i & 7))));
    return out;
  }
}

/** Codes of the values; the symbol behind the highest one repeats what was before. */
function huffman(values: Uint16Array): Buffer {
  const counts = new Map<number, number>();
  for (const v of values) counts.set(v, (counts.get(v) ?? 0) + 1);
  const lowest = Math.min(...counts.keys());
  const run = Math.max(...counts.keys()) + 1;
  counts.set(run, 1);
  // lengths by joining the two rarest again and again
  let nodes = [...counts].map(([s, n]) => ({ n, symbols: [s] }));
  const lengths = new Map<number, number>([...counts.keys()].map((s) => [s, 0]));
  while (nodes.length > 1) {
    nodes.sort((a, b) => a.n - b.n);
    const [a, b] = nodes;
    const symbols = [...a!.symbols, ...b!.symbols];
    for (const s of symbols) lengths.set(s, lengths.get(s)! + 1);
    nodes = [...nodes.slice(2), { n: a!.n + b!.n, symbols }];
  }
  // codes: the longest begin at 0
  const byLength = new Array<number>(60).fill(0);
  for (const l of lengths.values()) byLength[l]!++;
  const next = new Array<number>(60).fill(0);
  let code = 0;
  for (let l = 58; l > 0; l--) {
    next[l] = code;
    code = Math.floor((code + byLength[l]!) / 2);
  }
  const codes = new Map<number, number>();
  for (const s of [...lengths.keys()].sort((a, b) => a - b)) codes.set(s, next[lengths.get(s)!]!++);
  const table = new BitWriter();
  for (let s = lowest; s <= run;) {
    const l = lengths.get(s) ?? 0;
    if (l > 0) {
      table.put(l, 6);
      s++;
      continue;
    }
    let zeros = 0;
    while (s + zeros <= run && zeros < 261 && !lengths.has(s + zeros)) zeros++;
    if (zeros >= 6) {
      table.put(63, 6);
      table.put(zeros - 6, 8);
    } else if (zeros >= 2) table.put(57 + zeros, 6);
    else table.put(0, 6);
    s += zeros;
  }
  const data = new BitWriter();
  const put = (s: number): void => data.put(codes.get(s)!, lengths.get(s)!);
  for (let i = 0; i < values.length;) {
    let same = 1;
    while (i + same < values.length && same < 256 && values[i + same] === values[i]) same++;
    put(values[i]!);
    if (same > 8) {
      put(run);
      data.put(same - 1, 8);
      i += same;
    } else i++;
  }
  const head = Buffer.alloc(20);
  const packed = table.bytes();
  head.writeUInt32LE(lowest, 0);
  head.writeUInt32LE(run, 4);
  head.writeUInt32LE(packed.length, 8);
  head.writeUInt32LE(data.length, 12);
  return Buffer.concat([head, packed, data.bytes()]);
}
