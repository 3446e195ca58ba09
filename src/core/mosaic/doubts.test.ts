import { memoryRaster, type RasterInfo } from '../raster';
import { mosaic, type Part, type PlacedPart } from '.';

const [WIDE, HIGH] = [37, 29];
/** Ground that rises to the south-east over waves, so that no two borders are alike. */
const heightAt = (x: number, y: number): number =>
  Math.round(9000 + 31 * x + 17 * y + 2500 * Math.sin(x / 7) * Math.cos(y / 5) + 900 * Math.sin((x + 2 * y) / 11));

function partAt(name: string, column: number, row: number, value = (v: number): number => v): Part {
  const samples = Uint16Array.from({ length: WIDE * HIGH }, (_, i) =>
    value(heightAt(column * (WIDE - 1) + (i % WIDE), row * (HIGH - 1) + Math.floor(i / WIDE))),
  );
  const info = { format: 'raw', width: WIDE, height: HIGH, bitDepth: 16, sampleType: 'uint', warnings: [] };
  return { name, raster: memoryRaster(info as unknown as RasterInfo, samples) };
}
const NAMES = ['a', 'b', 'c', 'd', 'e', 'f'];
/** Three across and two down, which share their borders. */
const parts = NAMES.map((n, i) => partAt(n, i % 3, Math.floor(i / 3)));
const placed = (where: (column: number, row: number) => readonly [number, number]): PlacedPart[] =>
  NAMES.map((name, i) => {
    const [column, row] = where(i % 3, Math.floor(i / 3));
    return { name, at: [column * (WIDE - 1), row * (HIGH - 1)] };
  });
/** What is told of them when all samples have passed by: its code, and its words. */
async function doubtsOf(all: readonly Part[], where: readonly PlacedPart[]): Promise<[string, string][]> {
  const whole = mosaic(all, where);
  for await (const band of whole.bands()) expect(band.rows).toBeGreaterThan(0);
  return whole.lateWarnings.map(({ code, message }) => [code, message]);
}
const asTheyLie = placed((c, r) => [c, r]);

test('files that lie right leave nothing to doubt', async () => {
  expect(await doubtsOf(parts, asTheyLie)).toEqual([]);
  expect(await doubtsOf(parts, asTheyLie.slice(0, 1))).toEqual([]);
});

test.each([
  ['rows', placed((c, r) => [c, 1 - r]), /rows of files are counted from the north.*from the south/],
  ['columns', placed((c, r) => [2 - c, r]), /columns of files are counted from the west.*from the east/],
  ['swapped', asTheyLie.map((p, i) => ({ ...p, at: asTheyLie[[4, 1, 2, 3, 0, 5][i]!]!.at })), /a and e match/],
] as const)('counted or placed otherwise: %s', async (_, where, words) => {
  expect(await doubtsOf(parts, where)).toEqual([['mosaic', expect.stringMatching(words)]]);
});

test('parts that were normalised, stand higher, or are missing', async () => {
  const normalised = parts.map((p, i) => (i === 4 ? partAt('e', 1, 1, (v) => 0.5 * v + 200) : p));
  expect(await doubtsOf(normalised, asTheyLie)).toEqual([['mosaic', expect.stringContaining('normalised')]]);
  // put right by a factor they fit
  const fitted = asTheyLie.map((p) => (p.name === 'e' ? { ...p, factor: 2, shift: -400 } : p));
  expect(await doubtsOf(normalised, fitted)).toEqual([]);
  const torn = parts.map((p, i) => (i === 4 ? partAt('e', 1, 1, (v) => (v * 7919) % 20000) : p));
  expect(await doubtsOf(torn, asTheyLie)).toEqual([['mosaic', expect.stringContaining('don’t match')]]);
  expect(await doubtsOf(parts, asTheyLie.slice(0, 5))).toEqual([['mosaic-gap', expect.stringContaining('in no file')]]);
});
