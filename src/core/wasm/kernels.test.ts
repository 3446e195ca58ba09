import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import zlib from 'node:zlib';
import { adler32Plain, deflatePiecePlain } from '../formats/deflate';
import { crc32Plain } from '../formats/png/crc';
import { filterRow, unfilter16 } from '../formats/png/filters';
import { quantisePlain } from '../height/quantise';
import { axisWeights, FILTERS } from '../raster/kernels';
import { columnPass, rowPass } from '../raster/passes';
import { halveCodes } from '../raster/pyramid';
import { GroundCollector } from '../raster/ground';
import { floatsAbove } from '../raster/datum';
import { StatisticsCollector } from '../raster/statistics';
import {
  adler32Kernel,
  CodeStatisticsKernel,
  floatsAboveKernel,
  crc32Kernel,
  deflateKernel,
  filter16Kernel,
  halveKernel,
  quantiseKernel,
  ResampleKernel,
  floatsAt,
  Unfilter16Kernel,
} from '.';
import { codesAt, freshKernels, type KernelPlace } from './instance';

const undone = (place: KernelPlace | number): Uint16Array =>
  typeof place === 'number' ? Uint16Array.of() : codesAt(place);

const bytes = fc.uint8Array({ maxLength: 5000 });
/** Codes of a few kinds: noise, a slope, runs. */
const codes = (length: number) =>
  fc.oneof(
    fc.uint16Array({ minLength: length, maxLength: length }),
    fc.integer({ min: 0, max: 300 }).map((step) => Uint16Array.from({ length }, (_, i) => (i * step) & 0xffff)),
    fc.integer({ min: 1, max: 40 }).map((run) => Uint16Array.from({ length }, (_, i) => Math.floor(i / run) * 771)),
  );

test('checksums equal their twins', () => {
  fc.assert(
    fc.property(bytes, fc.nat(0xffffffff), (b, before) => {
      expect(crc32Kernel(b, before)).toBe(crc32Plain(b, before));
      const sum = (((before >>> 16) % 65521) * 65536 + ((before & 0xffff) % 65521)) >>> 0;
      expect(adler32Kernel(b, sum)).toBe(adler32Plain(b, sum));
    }),
  );
  const long = new Uint8Array(100000).fill(255);
  expect(adler32Kernel(long, 1)).toBe(adler32Plain(long, 1));
});

test('the CRC of long data, from which whole blocks are taken out, is the one of zlib', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 40000 }), fc.nat(0xffffffff), fc.nat(0xffffffff), (length, before, seed) => {
      const b = Uint8Array.from({ length }, (_, i) => Math.imul(i ^ seed, 2654435761) >>> 24);
      const kept = b.slice();
      expect(crc32Kernel(b, before)).toBe(zlib.crc32(b, before));
      // the kernel uses up a copy, never what it is given
      expect(Buffer.compare(b, kept)).toBe(0);
    }),
    { numRuns: 200 },
  );
  // every length about the one from which on it is done
  const around = new Uint8Array(9700).fill(0xa7);
  for (let n = 9560; n <= 9660; n++)
    expect(crc32Kernel(around.subarray(0, n), 1)).toBe(zlib.crc32(around.subarray(0, n), 1));
});

test('the sparse multiple by which blocks are taken out is one of the polynomial', () => {
  // x^n mod P by repeated doubling, bits in ascending order of powers (the polynomial of ISO 3309, not reflected)
  const P = 0x104c11db7n;
  const power = (n: number): bigint => {
    let r = 1n;
    for (let i = 0; i < n; i++) {
      r <<= 1n;
      if (r >> 32n) r ^= P;
    }
    return r;
  };
  expect([0, 89, 117, 155, 300].map((k) => power(128 * k)).reduce((a, b) => a ^ b)).toBe(0n);
  // what is 300 − k blocks behind the block that goes
  expect([155, 117, 89, 0].map((k) => 300 - k)).toEqual([145, 183, 211, 300]);
});

test.each([true, false])('deflate writes the bytes of its twin, matching %p', (matching) => {
  fc.assert(
    fc.property(
      fc.oneof(
        bytes,
        codes(3000).map((c) => new Uint8Array(c.buffer)),
      ),
      fc.nat(2000),
      fc.boolean(),
      (b, known, last) => {
        const start = Math.min(known, b.length);
        const twin = deflatePiecePlain(b, start, last, matching ? 'default' : 'fast');
        expect(Buffer.compare(deflateKernel(b, start, last, matching)!, twin)).toBe(0);
      },
    ),
    { numRuns: 150 },
  );
  // several blocks, and frequencies steep enough for codes to be cut to 15 bits
  const bell = Uint8Array.from(
    { length: 200000 },
    (_, i) => Math.round(128 + 9 * Math.log(((i * 7919) % 65537) / 65537 + 1e-9)) & 255,
  );
  expect(
    Buffer.compare(
      deflateKernel(bell, 40000, true, matching)!,
      deflatePiecePlain(bell, 40000, true, matching ? 'default' : 'fast'),
    ),
  ).toBe(0);
});

test('row filters are chosen, written and undone as by their twins', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 90 }).chain((w) => fc.tuple(fc.constant(w), codes(w * 5))),
      ([width, data]) => {
        const stride = width * 2 + 1;
        const twin = new Uint8Array(5 * stride);
        let above = new Uint8Array(width * 2);
        for (let r = 0; r < 5; r++) {
          const row = new Uint8Array(width * 2);
          for (let x = 0; x < width; x++) row.set([data[r * width + x]! >> 8, data[r * width + x]! & 255], 2 * x);
          filterRow(twin, r * stride, row, above, 2);
          above = row;
        }
        const first = new Uint8Array(width * 2);
        const a = filter16Kernel(data.subarray(0, 2 * width), width, first)!;
        const b = filter16Kernel(data.subarray(2 * width), width, first)!;
        expect([...a, ...b]).toEqual([...twin]);
        const k = freshKernels()!;
        const kernel = new Unfilter16Kernel(k, width, 3);
        const from = k.put(twin);
        const top = [...undone(kernel.rows(from, 3))];
        expect([...top, ...undone(kernel.rows(from + 3 * stride, 2))]).toEqual([...data]);
      },
    ),
    { numRuns: 200 },
  );
});

test.each([7, 8, 9, 40])('every row filter is undone as by the twin at width %i, an unknown one is named', (width) => {
  const rows = 9;
  const stride = width * 2 + 1;
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: rows * stride, maxLength: rows * stride }),
      // mostly the filter of which four rows are undone together
      fc.array(fc.oneof({ weight: 4, arbitrary: fc.constant(4) }, fc.integer({ min: 0, max: 4 })), {
        minLength: rows,
        maxLength: rows,
      }),
      fc.integer({ min: 0, max: rows - 1 }),
      (data, filters, bad) => {
        filters.forEach((f, r) => (data[r * stride] = f));
        const k = freshKernels()!;
        const kernel = new Unfilter16Kernel(k, width, rows);
        const at = k.put(data);
        const twin = unfilter16(data.slice(), width, rows, new Uint8Array(width * 2));
        expect([...undone(kernel.rows(at, rows))]).toEqual([...twin]);
        data[bad * stride] = 9;
        expect(kernel.rows(k.put(data), rows)).toBe(9);
      },
    ),
  );
});

test.each(FILTERS)('resampling by %s equals its twin to the bit', (filter) => {
  fc.assert(
    fc.property(
      fc.integer({ min: 2, max: 60 }),
      fc.integer({ min: 2, max: 90 }),
      fc.integer({ min: 2, max: 30 }),
      fc.integer({ min: 2, max: 40 }),
      fc.boolean(),
      (w, W, h, H, whole) => {
        const across = axisWeights({ sourceSamples: w, resultSamples: W, from: 0, to: W }, filter);
        const down = axisWeights({ sourceSamples: h, resultSamples: H, from: 0, to: H }, filter);
        const kernel = ResampleKernel.create(across, down, w, W, 3)!;
        const heights = Array.from({ length: w * h }, (_, i) => {
          const [x, y] = [i % w, Math.floor(i / w)];
          return 1000 + 500 * Math.sin(x * 0.7 + y) + ((x * 31 + y * 17) % 13);
        });
        const band = whole ? Uint16Array.from(heights) : Float32Array.from(heights);
        // all rows of the twin's row pass, kept
        const passed = new Float32Array(h * W);
        for (let y = 0; y < h; y++)
          rowPass(passed.subarray(y * W, (y + 1) * W), band.subarray(y * w, (y + 1) * w), across, W);
        let next = 0;
        for (let y = 0; y < h;) {
          const count = Math.min(h - y, 1 + ((y * 7 + w) % 8));
          kernel.rows(band.subarray(y * w, (y + count) * w), y);
          y += count;
          for (; next < H && down.first[next]! + down.taps <= y; next++) {
            const b = new Float32Array(W);
            const slot = next % 3;
            kernel.column(slot, next, 600, 1450);
            const a = floatsAt(kernel.band(slot + 1)).subarray(slot * W);
            columnPass(b, passed, down, next, h, W);
            expect([...a]).toEqual([...b].map((v) => Math.min(1450, Math.max(600, v))));
          }
        }
        expect(next).toBe(H);
      },
    ),
    { numRuns: 40 },
  );
});

test('rounding to codes, counting codes and facts of the ground equal their twins', () => {
  const heights = Float32Array.from({ length: 4001 }, (_, i) => (i % 97 === 0 ? NaN : Math.sin(i) * 900 + i * 0.3));
  const a = new Uint16Array(heights.length);
  const b = new Uint16Array(heights.length);
  const tally = { below: 0, above: 0, voids: 0 };
  quantisePlain(b, heights, { stores: 'codes', scale: 61.37, offset: 2000.25, highest: 65535 }, tally);
  expect(quantiseKernel(a, heights, 61.37, 2000.25, 65535)).toEqual(tally);
  expect(a).toEqual(b);
  expect(tally.below > 0 && tally.above > 0 && tally.voids > 0).toBe(true);

  const kernel = CodeStatisticsKernel.create()!;
  kernel.add(b.subarray(0, 1003));
  kernel.add(b.subarray(1003));
  const { seen, ...counted } = kernel.result();
  expect(counted).toEqual({ sum: b.reduce((s, v) => s + v, 0), low: Math.min(...b), high: Math.max(...b) });
  expect(seen.reduce((n, v) => n + v, 0)).toBe(new Set(b).size);

  const width = 43;
  const rows = 93;
  const facts = (plain: boolean) => {
    const collector = new GroundCollector(
      width,
      rows,
      { low: -900, high: 2000 },
      { low: -500.3, high: 1500.1 },
      0,
      plain,
    );
    for (let y = 0; y < rows; y += 30)
      collector.add({
        y,
        rows: Math.min(30, rows - y),
        data: heights.subarray(y * width, Math.min(rows, y + 30) * width),
      });
    return collector.result();
  };
  expect(facts(false)).toEqual(facts(true));
});

test('overviews are halved as by their twin, odd widths and several loads of rows included', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1500 }), fc.integer({ min: 1, max: 140 }), fc.nat(), (width, pairs, seed) => {
      const from = Uint16Array.from({ length: width * pairs * 2 }, (_, i) => Math.imul(i ^ seed, 2654435761) >>> 16);
      from.fill(65535, 0, Math.min(from.length, 3 * width));
      const half = Math.ceil(width / 2);
      const found = new Uint16Array(half * pairs + 1);
      // below a few thousand samples it leaves the work to the twin
      expect(halveKernel(from, found, width, pairs)).toBe(width * pairs >= 4096);
      if (width * pairs < 4096) return;
      const twin = new Uint16Array(half * pairs + 1);
      for (let p = 0; p < pairs; p++) halveCodes(from, twin, 2 * p * width, (2 * p + 1) * width, p * half, width);
      expect(Buffer.compare(new Uint8Array(found.buffer), new Uint8Array(twin.buffer))).toBe(0);
    }),
    { numRuns: 60 },
  );
});

test('the shipped kernels are what their sources compile to, byte for byte', () => {
  const { status, stderr } = spawnSync(process.execPath, ['tools/build-wasm.mjs', '--check'], { encoding: 'utf8' });
  expect([status, stderr]).toEqual([0, '']);
}, 60_000);

test('statistics of floats equal their twin: voids, infinities, both zeros, few values and more than are told apart', () => {
  const facts = (data: Float32Array, plain: boolean, cut: number) => {
    const collector = new StatisticsCollector({ plain });
    collector.add({ data: data.subarray(0, cut) });
    if (cut < data.length) collector.add({ data: data.subarray(cut) });
    return collector.result();
  };
  const odd = Float32Array.from({ length: 200_001 }, (_, i) =>
    i % 97 === 0 ? [NaN, Infinity, -Infinity, -0, 0][(i / 97) % 5]! : Math.sin(i) * 900 + i * 0.3,
  );
  const whole = Float32Array.from({ length: 70_001 }, (_, i) => ((i * 7919) % 1000) * 12 + 6);
  const many = Float32Array.from({ length: 1_300_000 }, (_, i) => 1 + i * 2 ** -21);
  const nothing = new Float32Array(5000).fill(NaN);
  for (const data of [odd, whole, many, nothing])
    for (const cut of [5000, 65_537]) expect(facts(data, false, cut)).toEqual(facts(data, true, cut));
  // and what they are, worked out apart
  const valid = [...odd].filter(Number.isFinite);
  expect(facts(odd, false, 5000)).toMatchObject({
    voids: odd.length - valid.length,
    min: valid.reduce((a, b) => Math.min(a, b)),
    max: valid.reduce((a, b) => Math.max(a, b)),
    distinctCodes: new Set(valid).size,
  });
  expect(facts(whole, false, 5000)).toMatchObject({ distinctCodes: 1000, wholeStep: 12, min: 6, max: 11994 });
  expect(facts(many, false, 5000)).toMatchObject({ distinctCodes: 2 ** 20, distinctMore: true });
  expect(facts(nothing, false, 5000)).toMatchObject({ voids: 5000, min: null, mean: null, distinctCodes: 0 });
});

test('fractions are told apart no further than is enough; whole numbers to the end', () => {
  const of = (data: Float32Array, enough: number) => {
    const collector = new StatisticsCollector({ enough });
    for (let i = 0; i < data.length; i += 6001) collector.add({ data: data.subarray(i, i + 6001) });
    return collector.result();
  };
  const fractions = Float32Array.from({ length: 60_010 }, (_, i) => Math.sin(i) * 900);
  const all = of(fractions, Infinity);
  const few = of(fractions, 700);
  expect(few).toEqual({ ...all, distinctCodes: few.distinctCodes, distinctMore: true });
  expect(few.distinctCodes).toBeGreaterThan(700);
  expect(few.distinctCodes).toBeLessThan(2 * 6001);
  expect(all.distinctCodes).toBe(new Set(fractions).size);
  const whole = Float32Array.from({ length: 60_010 }, (_, i) => ((i * 7919) % 5003) * 12 + 6);
  expect(of(whole, 700)).toEqual(of(whole, Infinity));
  expect(of(whole, 700)).toMatchObject({ distinctCodes: 5003, wholeStep: 12 });
});

test('floats above a datum equal their twin, to the bit', () => {
  const data = Float32Array.from({ length: 1003 }, (_, i) =>
    i % 31 === 0 ? [NaN, Infinity, -Infinity, 0, 3.4e38][(i / 31) % 5]! : Math.sin(i) * 2000 + 4000,
  );
  for (const datum of [0, 1725.25, -4321.000001, 1e30])
    for (const from of [0, 1, 2, 3]) {
      const part = data.subarray(from);
      expect(floatsAboveKernel(part, datum)).toEqual(floatsAbove(part, datum));
    }
  expect([...floatsAboveKernel(Float32Array.of(10.5, NaN, -Infinity, 3), 1.25)!]).toEqual([9.25, NaN, NaN, 1.75]);
});
