/** A raster in degrees as square metres, from file to proof; and a slip in projecting it, which the proof must find. */
import { MemoryFolder, memorySource } from '@/core/base';
import { applyEdit, withReprojection } from '@/core/edits';
import { prove, type Proof } from '@/core/proof';
import { countSource, measuredPlan, run } from '@/core/run';
import type * as Zones from '@/core/squares/zone';
import { proposedSquares } from '@/core/squares';
import { recipeWith } from '../helpers/rasters';

// whole packs are written and proved here: that takes a while on a busy machine
jest.setTimeout(60_000);

/** Metres by which the pipeline places everything too far east. */
let mockEast = 0;
jest.mock('@/core/squares/zone', () => {
  const right = jest.requireActual<typeof Zones>('@/core/squares/zone');
  const projector: typeof right.projector = (zone) => {
    const { forward, inverse } = right.projector(zone);
    return { forward, inverse: (east, north) => inverse(east + mockEast, north) };
  };
  return { ...right, projector };
});

const SIDE = 301;
const source = memorySource(
  'fells.asc',
  new TextEncoder().encode(
    `ncols ${SIDE}\nnrows ${SIDE}\nxllcenter 80.3\nyllcenter -47.2\ncellsize ${1 / 3600}\nNODATA_value -9999\n` +
      Array.from({ length: SIDE }, (_, y) =>
        Array.from({ length: SIDE }, (_v, x) =>
          (900 + 300 * Math.sin(x / 23) * Math.cos(y / 31) + 60 * Math.sin((x + 2 * y) / 9)).toFixed(3),
        ).join(' '),
      ).join('\n'),
  ),
);

async function packed(): Promise<Proof> {
  const { facts } = await countSource(source);
  const squares = proposedSquares(facts.info)!;
  const recipe = withReprojection(
    recipeWith({ source: { low: undefined, high: undefined }, fit: { size: 253 }, height: { range: 'ground' } }),
    squares,
    facts.info,
  );
  const folder = new MemoryFolder();
  await run({ ...recipe, fit: { ...recipe.fit, size: 253, method: 'resample' } }, source, folder);
  return (await prove({ file: (n) => folder.source(n), reference: source })).proof;
}

const states = ({ checks }: Proof): Record<string, string> => Object.fromEntries(checks.map((c) => [c.id, c.state]));

test('what was read is told as degrees, with a repair; made squares, nothing is left to say', async () => {
  const { facts } = await countSource(source);
  const told = facts.warnings.find((w) => w.code === 'degrees')!;
  expect(told.repair).toMatchObject({ edit: 'make-metric', args: { zone: 44, south: true } });
  const recipe = applyEdit(recipeWith({ source: { low: undefined } }), told.repair!);
  expect(recipe.steps).toMatchObject([{ op: 'reproject', zone: 44, south: true }]);
  const counted = await countSource(source);
  const { document, work } = await measuredPlan(recipe, counted);
  expect(document.checks.filter((c) => c.id === 'source-degrees')).toEqual([]);
  expect(work.entering.info).toMatchObject({ georeference: { degrees: false, metres: 1, crs: 'EPSG:32744' } });
  expect(work.entering.stats!.voids).toBe(0);
  // the grid is chosen for what it becomes
  expect(document.fit.spacing.x).toBeCloseTo(document.fit.spacing.y, 1);
});

test('the pack of it is proved', async () => {
  const proof = await packed();
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  expect(states(proof)).toMatchObject({ reproject: 'holds' });
});

test('squares that lie 2 m off turn the proof red', async () => {
  mockEast = 2;
  try {
    const proof = await packed();
    expect(proof.holds).toBe(false);
    expect(states(proof)).toMatchObject({ reproject: 'fault', samples: 'holds' });
  } finally {
    mockEast = 0;
  }
});
