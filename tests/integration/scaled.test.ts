/** A TIFF that says what its stored values are multiplied by, and what is added: heights are read so, or it is told. */
import { joinedSources, MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { applyEdit, freshRecipe } from '@/core/edits';
import type { PlanDocument } from '@/core/plan';
import { prove } from '@/core/proof';
import type { Recipe } from '@/core/recipe';
import { countSource, run } from '@/core/run';
import { writeTiff } from '../helpers/write-tiff';

const [W, H] = [37, 29];
const stored = (x: number, y: number): number => 300 + 7 * x + 3 * y + ((x * y) % 11);
const items = (...list: string[]): string => `<GDALMetadata>\n${list.join('\n')}\n</GDALMetadata>`;
const SAID = items(
  '<Item name="made">by hand</Item>',
  '<Item name="SCALE" sample="0" role="scale">0.25</Item>',
  '<Item name="OFFSET" sample="0" role="offset">-120.5</Item>',
  '<Item name="SCALE" sample="1" role="scale">9</Item>',
);

const file = (type: 'int' | 'float', said: string | null, keys?: readonly number[]): ByteSource =>
  memorySource(
    'kettle.tif',
    writeTiff(
      {
        width: W,
        height: H,
        type,
        bits: type === 'int' ? 16 : 32,
        tags: [...(said === null ? [] : [[42112, 2, said] as const]), ...(keys ? [[34735, 3, keys] as const] : [])],
      },
      stored,
    ),
  );

async function fresh(source: ByteSource): Promise<{ recipe: Recipe; source: ByteSource }> {
  const { facts } = await countSource(source);
  const { info, stats } = facts;
  return { recipe: { ...freshRecipe({ info, stats }, 'kettle', 'exchange'), fit: crop }, source };
}
const crop: Recipe['fit'] = {
  size: [31, 23],
  method: 'crop',
  at: [4, 2],
  filter: 'catmull-rom',
  clamp: true,
  worldScale: 1,
  origin: 'north-west',
};

async function elevations(recipe: Recipe, source: ByteSource): Promise<{ heights: number[]; document: PlanDocument }> {
  const folder = new MemoryFolder();
  const document = await run(
    { ...recipe, output: { format: 'raw', encoding: 'f32', byteOrder: 'little', rows: 'north' } },
    source,
    folder,
  );
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
  expect(proof.checks.filter((c) => c.state === 'fault').map((c) => c.message)).toEqual([]);
  const bytes = folder.files.get('kettle.raw')!;
  return { heights: [...new Float32Array(bytes.slice().buffer)], document };
}
const ground = (unit: number): number[] =>
  Array.from({ length: 31 * 23 }, (_, i) => unit * (0.25 * stored(4 + (i % 31), 2 + Math.floor(i / 31)) - 120.5));

test.each(['int', 'float'] as const)('%s: fresh heights are those that the file means, proved', async (type) => {
  const { recipe, source } = await fresh(file(type, SAID));
  expect(recipe.source.heights).toEqual({ as: 'step', step: 0.25, base: -120.5 });
  const { heights, document } = await elevations(recipe, source);
  const wanted = ground(1);
  expect(Math.max(...heights.map((h, i) => Math.abs(h - wanted[i]!)))).toBeLessThan(1e-3);
  expect(document.checks.find((c) => c.id === 'source-scaled')).toMatchObject({
    state: 'note',
    message:
      'The file says that an elevation is its stored value × 0.25 − 120.5 (taken as metres, since it names no unit); its heights are read so.',
  });
});

test('the unit of the heights counts too', async () => {
  // heights in feet
  const { recipe, source } = await fresh(file('int', SAID, [1, 1, 0, 1, 4099, 0, 1, 9002]));
  expect(recipe.source.heights).toEqual({ as: 'step', step: 0.25 * 0.3048, base: -120.5 * 0.3048 });
  const { heights } = await elevations(recipe, source);
  const wanted = ground(0.3048);
  expect(Math.max(...heights.map((h, i) => Math.abs(h - wanted[i]!)))).toBeLessThan(1e-3);
});

test('taken for something else it is told, and one click takes what the file says', async () => {
  const { recipe, source } = await fresh(file('int', SAID));
  const other: Recipe = { ...recipe, source: { ...recipe.source, heights: { as: 'elevations', unit: 'metre' } } };
  const { document } = await elevations(other, source);
  const told = document.checks.find((c) => c.id === 'source-scaled')!;
  expect(told.state).toBe('caution');
  const mended = applyEdit(other, told.repair!);
  expect(mended.source.heights).toEqual(recipe.source.heights);
});

test.each([
  ['nothing is said', null],
  ['nothing that changes a height', items('<Item name="SCALE" sample="0" role="scale">1</Item>')],
  ['of another channel only', items('<Item name="SCALE" sample="2" role="scale">0.5</Item>')],
  ['a factor of nothing, an offset in words', items('<Item role="scale">0</Item>', '<Item role="offset">low</Item>')],
  ['endless numbers', items('<Item role="scale">1e999</Item>')],
])('%s: heights are metres as before', async (_, said) => {
  const { recipe } = await fresh(file('int', said));
  expect(recipe.source.heights).toEqual({ as: 'elevations', unit: 'metre' });
});

test('tiles that say different factors are told, and none is taken', async () => {
  const tile = (name: string, said: string): ByteSource =>
    memorySource(name, writeTiff({ width: W, height: H, type: 'int', bits: 16, tags: [[42112, 2, said]] }, stored));
  const other = SAID.replace('0.25', '0.5');
  const { facts } = await countSource(joinedSources([tile('fells_x0_y0.tif', SAID), tile('fells_x1_y0.tif', other)]));
  expect(facts.info.scaled).toBeUndefined();
  expect(facts.warnings.map((w) => w.message).join(' ')).toMatch(/different factors and offsets/);
  const alike = await countSource(joinedSources([tile('fells_x0_y0.tif', SAID), tile('fells_x1_y0.tif', SAID)]));
  expect(alike.facts.info.scaled).toEqual({ factor: 0.25, base: -120.5 });
});

test('a factor that turns heights over is told, and not taken', async () => {
  const { recipe, source } = await fresh(file('int', items('<Item role="scale" sample="0">-0.5</Item>')));
  expect(recipe.source.heights.as).toBe('elevations');
  const { document } = await elevations(recipe, source);
  expect(document.checks.find((c) => c.id === 'source-scaled')).toMatchObject({
    state: 'caution',
    message: expect.stringMatching(/higher values lie lower/) as string,
  });
});
