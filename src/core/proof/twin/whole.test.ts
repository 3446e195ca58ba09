import { recipeWith } from '../../../../tests/helpers/rasters';
import { endsKernel, WholeGroundKernel } from '../../wasm';
import { expectedGrid, readGround, WholeGround, type Compiled, type Place, type SourceFacts } from '.';
import type { Outline } from './places';
import type { PlacedBand, TwinStage } from './operations/operation';

/*
 * Every vertex by sums along rows against each vertex by itself, whatever order and parts the samples come in.
 */
const COMPILED: Compiled = { ground: (...sides) => WholeGroundKernel.create(...sides), ends: endsKernel };
const [WIDE, HIGH] = [61, 43];
const facts: SourceFacts = {
  file: 'fells.raw',
  width: WIDE,
  height: HIGH,
  bitDepth: 32,
  sampleType: 'float',
  spacing: 3,
};
const VOIDS = new Set([0, 563, 7, 8, 9, 68, 69, 70, 1333, 2600, WIDE * HIGH - 1]);
const ground = Float32Array.from({ length: WIDE * HIGH }, (_, i) =>
  VOIDS.has(i) ? NaN : 400.3 + 70 * Math.sin((i % WIDE) / 5.1) * Math.cos(Math.floor(i / WIDE) / 3.7),
);

/** A part of the ground as one band. */
function part({ x, y, width, height }: Outline): PlacedBand {
  const data = Float32Array.from(
    { length: width * height },
    (_, i) => ground[(y + Math.floor(i / width)) * WIDE + x + (i % width)]!,
  );
  return { x, y, rows: height, width, data };
}
const stageOf = (outlines: readonly Outline[]): TwinStage => ({
  width: WIDE,
  height: HIGH,
  georeference: null,
  pieces: null,
  samples: {
    files: outlines.length,
    outlines,
    async *bands() {
      for (const outline of outlines) yield part(outline);
    },
  },
});
const ONE = [{ x: 0, y: 0, width: WIDE, height: HIGH }];
/** From the south-east on, in rows of two bands. */
const SCATTERED = [
  { x: 25, y: 20, width: WIDE - 25, height: HIGH - 20 },
  { x: 0, y: 31, width: 25, height: HIGH - 31 },
  { x: 0, y: 20, width: 25, height: 11 },
  { x: 0, y: 0, width: 40, height: 20 },
  { x: 40, y: 0, width: WIDE - 40, height: 20 },
];

const resampled = { method: 'resample', size: [83, 29], voids: 12 } as const;
test.each([
  ['larger across, smaller down, Lanczos', { ...resampled, filter: 'lanczos3' }],
  ['Catmull–Rom, held within the samples', { ...resampled, filter: 'catmull-rom', clamp: true }],
  ['bilinear', { ...resampled, filter: 'bilinear', size: [31, 85] }],
  ['area', { ...resampled, filter: 'area', size: [19, 23] }],
  ['nearest', { ...resampled, filter: 'nearest' }],
  ['as many vertices as samples', { ...resampled, size: [WIDE, HIGH] }],
  ['cropped', { method: 'crop', size: [37, 31], at: [11, 5], voids: 12 }],
  ['padded', { method: 'pad', size: [85, 64], at: [13, 9], rim: 7, voids: 12 }],
])('%s', async (_, fit) => {
  const recipe = recipeWith({
    target: 'odd-grid',
    source: { heights: { as: 'elevations' }, low: undefined, high: undefined, spacing: 3 },
    fit,
  });
  const grid = expectedGrid(recipe, facts);
  expect([grid.width, grid.height]).toEqual(fit.size);
  const places = Array.from({ length: grid.width * grid.height }, (_v, i): Place => ({
    x: i % grid.width,
    y: Math.floor(i / grid.width),
  }));
  const found: unknown[][] = [];
  for (const [outlines, compiled] of [
    [ONE, COMPILED],
    [SCATTERED, COMPILED],
    [SCATTERED, null],
  ] as const) {
    const whole = WholeGround.of(recipe, grid, facts, compiled)!;
    const { values, all } = await readGround(
      stageOf(outlines),
      { facts, recipe, grid },
      places,
      { whole, compiled },
      {},
    );
    const kinds = new Set<string>();
    found.push(places.map(({ x, y }) => all!(x, y)));
    places.forEach(({ x, y }, i) => {
      const [one, other] = [values[i]!, all!(x, y)];
      kinds.add(one.kind);
      expect([x, y, other.kind]).toEqual([x, y, one.kind]);
      if ('stored' in one && 'stored' in other) expect(other.stored).toBeCloseTo(one.stored, 9);
    });
    expect(kinds).toContain('void');
    expect(kinds.has('rim')).toBe(fit.method === 'pad');
  }
  // compiled code and plain code: the same to the bit
  expect(found[1]).toEqual(found[2]);
});

test('too many vertices, or too many samples for each, are not worked out', () => {
  const of = (size: number, width: number, height: number): WholeGround | null => {
    const recipe = recipeWith({ fit: { size } });
    const source = { ...facts, width, height };
    return WholeGround.of(recipe, expectedGrid(recipe, source), source);
  };
  expect(of(1009, 1500, 1400)).not.toBeNull();
  expect(of(2017, 1500, 1400)).toBeNull();
  expect(of(1009, 16385, 16385)).toBeNull();
});
