/**
 * Packs whose recipe was changed after they were written, the same in recipe.json and import.json: the proof names what
 * was read or made otherwise, and nothing that only follows from it.
 */
import { joinedSources, MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { prove, type Proof, type ProofCheck } from '@/core/proof';
import type { Recipe } from '@/core/recipe';
import { run } from '@/core/run';
import { faultTable } from '../helpers/fault-table';
import { degrees, groundAt } from '../helpers/ground-in-degrees';
import { recipeWith } from '../helpers/rasters';
import { groundMesh, plyOf } from '../helpers/write-mesh';

jest.setTimeout(60_000);

type Changeable<T> = { -readonly [K in keyof T]: T[K] extends object ? Changeable<T[K]> : T[K] };

const [WIDE, HIGH, WEST, NORTH] = [151, 137, 80, 60];
const whole = (): ByteSource => degrees('fells.asc', 0, 0, WIDE, HIGH);
const four = (): ByteSource =>
  joinedSources([
    degrees('nw.asc', 0, 0, WEST, NORTH),
    degrees('ne.asc', WEST, 0, WIDE - WEST, NORTH),
    degrees('sw.asc', 0, NORTH, WEST, HIGH - NORTH),
    degrees('se.asc', WEST, NORTH, WIDE - WEST, HIGH - NORTH),
  ]);
const mesh = (): ByteSource =>
  memorySource(
    'arch.ply',
    plyOf(
      groundMesh(83, 61, 2, (x, y) => groundAt(x, y) / 9),
      'little',
    ),
  );

const METRES = { heights: { as: 'elevations', unit: 'metre' }, spacing: 25 } as const;
const FILES = [
  { name: 'nw.asc', at: [0, 0] },
  { name: 'ne.asc', at: [WEST, 0] },
  { name: 'sw.asc', at: [0, NORTH] },
  { name: 'se.asc', at: [WEST, NORTH] },
];
const fit = { size: [127, 253], voids: 600 };
const squares = { op: 'reproject', zone: 44, south: true, spacing: 25 } as const;
type Parts = Parameters<typeof recipeWith>[0];
const asDegrees: Parts = { source: METRES, steps: [], fit };
const asMetric: Parts = { source: METRES, steps: [squares], fit };
const ofFiles: Parts = { source: { ...METRES, files: FILES }, steps: [], fit };

async function proofOf(source: ByteSource, parts: Parts, change: (r: Changeable<Recipe>) => void): Promise<Proof> {
  const folder = new MemoryFolder();
  await run(recipeWith(parts), source, folder);
  const edited = (name: string, edit: (document: never) => void): void => {
    const document = JSON.parse(new TextDecoder().decode(folder.files.get(name))) as never;
    edit(document);
    folder.files.set(name, new TextEncoder().encode(JSON.stringify(document)));
  };
  edited('recipe.json', change);
  edited('import.json', (document: { recipe: Changeable<Recipe> }) => change(document.recipe));
  return (await prove({ file: (n) => folder.source(n), reference: source })).proof;
}

const CASES: [string, () => ByteSource, Parts, (r: Changeable<Recipe>) => void, string, RegExp][] = [
  [
    'another zone',
    whole,
    asMetric,
    (r) => Object.assign(r.steps[0]!, { zone: 45 }),
    'made-otherwise',
    /125 × 166 samples.*step 1 \(reproject to zone 45 south, squares of 25 m\), there are/,
  ],
  ['a reprojection left out', whole, asMetric, (r) => (r.steps = []), 'made-otherwise', /The recipe has no steps/],
  [
    'a reprojection that was not made',
    whole,
    asDegrees,
    (r) => (r.steps = [squares] as never),
    'made-otherwise',
    /151 × 137 samples, 25 m apart, enter its fit/,
  ],
  [
    'another unit',
    whole,
    asDegrees,
    (r) => Object.assign(r.source.heights, { unit: 'foot' }),
    'unit',
    /as if heights came in metres; the recipe says feet/,
  ],
  [
    'another axis of a mesh',
    mesh,
    {
      source: { heights: { as: 'elevations' }, spacing: 2, mesh: { up: 'z', metres: 1 } },
      fit: { size: [127, 127] },
    },
    (r) => Object.assign(r.source.mesh!, { up: 'y' }),
    'read-otherwise',
    /of 83 × 61 samples\. Seen from above as a mesh whose y is up/,
  ],
  [
    'files in other places',
    four,
    ofFiles,
    (r) => Object.assign(r.source.files![3]!, { at: [WEST, NORTH + 1] }),
    'read-otherwise',
    /151 × 137 samples\. With its 4 files where the recipe has them it has 151 × 138/,
  ],
  [
    'files in other places, under squares',
    four,
    { ...ofFiles, steps: [squares] },
    (r) => Object.assign(r.source.files![3]!, { at: [WEST, NORTH + 1] }),
    'read-otherwise',
    /of 151 × 137 samples/,
  ],
  [
    'another spacing',
    whole,
    asDegrees,
    (r) => (r.source.spacing = 30),
    'spaced-otherwise',
    /samples 25 m apart; by recipe and source they are 30 m apart/,
  ],
];
const listed = faultTable('causes');
test.each(CASES)('%s: that is named, and nothing else', async (what, source, parts, change, id, words) => {
  const { holds, checks, wrongValues } = await proofOf(source(), parts, change);
  const faults = checks.filter((c) => c.state === 'fault');
  expect(holds).toBe(false);
  expect(faults).toMatchObject([{ id, message: expect.stringMatching(words) as string }]);
  listed('recipe', what, faults[0]!.message);
  // on the card they stay marked
  expect(wrongValues.length).toBeGreaterThan(0);
});

test('two files that changed places, of one size: their doubt goes with the pack', async () => {
  const source = joinedSources([
    degrees('nw.asc', 0, 0, 75, 68),
    degrees('ne.asc', 75, 0, 75, 68),
    degrees('sw.asc', 0, 68, 75, 68),
    degrees('se.asc', 75, 68, 75, 68),
  ]);
  const at = (names: readonly string[]) => names.map((name, i) => ({ name, at: [(i % 2) * 75, i < 2 ? 0 : 68] }));
  const of = (names: readonly string[]): Parts => ({
    source: { ...METRES, files: at(names) },
    fit,
  });
  const right = await proofOf(source, of(['nw.asc', 'ne.asc', 'sw.asc', 'se.asc']), () => undefined);
  expect(right.checks.filter((c) => c.id.startsWith('source-mosaic'))).toEqual([]);
  const swapped = await proofOf(source, of(['nw.asc', 'se.asc', 'sw.asc', 'ne.asc']), () => undefined);
  expect(swapped.holds).toBe(true);
  expect(swapped.checks).toContainEqual({
    id: 'source-mosaic',
    step: 'source',
    state: 'caution',
    message: expect.stringContaining('match their neighbours only when they change places') as string,
  });
  const upsideDown = await proofOf(source, of(['sw.asc', 'se.asc', 'nw.asc', 'ne.asc']), () => undefined);
  expect(upsideDown.checks).toContainEqual(
    expect.objectContaining({
      id: 'source-mosaic',
      state: 'caution',
      message: expect.stringContaining('match only where they are counted from the south') as string,
    }) as ProofCheck,
  );
});
