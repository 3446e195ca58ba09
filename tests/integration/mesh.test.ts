/** A sculpted mesh becomes a pack: baked, proved by its own triangles, and sculpted further in a pinned volume. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { MemoryFolder, memorySource } from '@/core/base';
import { roomyVolume, withMesh, withVolume } from '@/core/edits';
import { prove } from '@/core/proof';
import type { StoredBand } from '@/core/raster';
import { countSource, run, type CountedSource } from '@/core/run';
import { sourceReading, type Recipe } from '@/core/recipe';
import { recipeWith } from '../helpers/rasters';
import { groundMesh, joined, objOf, plyOf, type TestMesh } from '../helpers/write-mesh';
import { callIn } from '../helpers/cli';

jest.setTimeout(60_000);

const SIDE = 129;
const fell = (x: number, y: number): number =>
  60 + 25 * Math.sin(x / 17) * Math.cos(y / 23) + 3 * Math.sin(x / 3.1 + y / 2.3);

/** An arch over a gully: ground, and a slab above it that stands on nothing of it. */
function wendArch(sculpted: (x: number, y: number) => number = () => 0): TestMesh {
  const roof: TestMesh = {
    vertices: [
      ...[120, 116].flatMap(
        (z) =>
          [
            [80, 90, z],
            [120, 90, z],
            [120, 110, z],
            [80, 110, z],
          ] as [number, number, number][],
      ),
    ],
    faces: [
      [0, 1, 2, 3],
      [7, 6, 5, 4],
    ],
  };
  return joined(
    groundMesh(SIDE, SIDE, 2, (x, y) => fell(x, y) + sculpted(x, y)),
    roof,
  );
}

const sourceOf = (mesh: TestMesh) => memorySource('wend-arch.ply', plyOf(mesh, 'little'));

async function packed(mesh: TestMesh, recipe: Recipe) {
  const source = sourceOf(mesh);
  const counted = await countSource(source, sourceReading(recipe));
  const folder = new MemoryFolder();
  const document = await run(recipe, counted, folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
  return { folder, proof, counted, document };
}

const metres: Parameters<typeof recipeWith>[0] = {
  source: { heights: { as: 'elevations' }, spacing: 2 },
  fit: { size: 127, method: 'crop' },
  height: { range: 'ground' },
  output: { format: 'raw' },
};

async function recipeFor(mesh: TestMesh): Promise<Recipe> {
  const { facts } = await countSource(sourceOf(mesh));
  return withMesh(recipeWith(metres), facts.info.mesh!.options);
}

test('packed and proved: each place holds the highest surface, and the overhang is told', async () => {
  const mesh = wendArch();
  const { proof, document } = await packed(mesh, await recipeFor(mesh));
  expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  expect(proof.checks.find((c) => c.id === 'mesh')).toMatchObject({ state: 'holds' });
  // 20 × 10 samples, 2 m apart, of a roof of 40 by 20 m
  expect(document.checks.find((c) => c.id === 'source-overhang')).toMatchObject({
    state: 'note',
    message: expect.stringContaining('Under 200 samples there is more ground below') as string,
  });
});

test.each([
  ['a row too far south', (band: StoredBand, last: Float32Array) => shifted(band, last)],
  [
    'a metre too high',
    ({ data, ...band }: StoredBand) => ({ ...band, data: (data as Float32Array).map((v) => v + 1) }),
  ],
])('a raster that is baked %s turns the proof red', async (_, spoil) => {
  const mesh = wendArch();
  const recipe = await recipeFor(mesh);
  const { folder, counted } = await packed(mesh, recipe);
  const wrong: CountedSource = {
    ...counted,
    opened: {
      ...counted.opened,
      async *bands(job) {
        let last: Float32Array | null = null;
        for await (const band of counted.opened.bands(job)) {
          last ??= (band.data as Float32Array).slice(0, SIDE);
          yield spoil(band, last);
        }
      },
    },
  };
  const { proof } = await prove({ file: (n) => folder.source(n), reference: wrong });
  expect(proof.checks.find((c) => c.id === 'mesh')).toMatchObject({ state: 'fault' });
});

function shifted(band: StoredBand, last: Float32Array): StoredBand {
  const data = band.data as Float32Array;
  const moved = new Float32Array(data.length);
  moved.set(last);
  moved.set(data.subarray(0, data.length - SIDE), SIDE);
  last.set(data.subarray(data.length - SIDE));
  return { ...band, data: moved };
}

test('sculpted further in a pinned volume: ground that was not touched keeps its codes', async () => {
  const before = wendArch();
  const { facts } = await countSource(sourceOf(before));
  const { bounds, options } = facts.info.mesh!;
  const recipe = withVolume(recipeWith(metres), options, roomyVolume(bounds));
  // a mound, and a spur that reaches beyond where the mesh ended
  const mound = (x: number, y: number): number => (x > 40 && x < 60 && y > 20 && y < 50 ? 9 : 0);
  const spur = groundMesh(4, 3, 2, () => 70, [254, 40]);
  const after = joined(wendArch(mound), spur);
  const [first, second] = [await packed(before, recipe), await packed(after, recipe)];
  for (const { proof } of [first, second]) expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
  expect(second.counted.facts.info.mesh!.outside).toBeGreaterThan(0);
  const [a, b] = await Promise.all(
    [first, second].map(async ({ folder, document }) => {
      const source = folder.source(document.files[0]!.name)!;
      const bytes = await source.read(0, source.size);
      return new Uint16Array(bytes.slice().buffer);
    }),
  );
  const at = (i: number): [number, number] => [i % 127, SIDE - 1 - Math.floor(i / 127)];
  let [same, moved] = [0, 0];
  a!.forEach((code, i) => {
    const [x, y] = at(i);
    // a sample away from the mound, planes between vertices reach it
    const touched = x >= 40 && x <= 60 && y >= 20 && y <= 50;
    const spurred = x >= 125 && y >= 19 && y <= 23;
    if (touched || spurred) {
      if (code !== b![i]) moved++;
    } else {
      expect(b![i]).toBe(code);
      same++;
    }
  });
  expect([same > 15_000, moved > 400]).toEqual([true, true]);
});

describe('from the command line', () => {
  let folder: string;
  const call = (...args: string[]) => callIn(folder, ...args);
  beforeAll(() => {
    folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-mesh-'));
    writeFileSync(path.join(folder, 'arch.obj'), objOf(wendArch(), 'y'));
    writeFileSync(path.join(folder, 'recipe.json'), JSON.stringify(recipeWith(metres)));
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  test('inspect, bring-in, run and prove', () => {
    const [entry] = call('inspect', 'arch.obj').json['files'] as [Record<string, unknown>];
    expect(entry).toMatchObject({
      format: 'obj',
      vertices: SIDE * SIDE + 8,
      triangles: 2 * (SIDE - 1) ** 2 + 4,
      bounds: { min: [0, 0, expect.any(Number)], max: [256, 256, 120] },
      up: 'y',
      upGuessed: true,
    });
    const made = call('bring-in', 'arch.obj', '--out', 'arch.r32', '--up', 'y', '--spacing', '2');
    expect(made.json).toMatchObject({ width: SIDE, height: SIDE, spacing: 2, noData: { count: 0 } });
    expect(made.json['overhangs']).toMatchObject({ count: 200 });
    const raster = readFileSync(path.join(folder, 'arch.r32'));
    let worst = 0;
    for (let y = 0; y < SIDE; y++)
      for (let x = 0; x < SIDE; x++) {
        const [east, north] = [2 * x, 2 * (SIDE - 1 - y)];
        const roof = east >= 80 && east <= 120 && north >= 90 && north <= 110;
        const expected = roof ? 120 : fell(x, SIDE - 1 - y);
        worst = Math.max(worst, Math.abs(raster.readFloatLE((y * SIDE + x) * 4) - expected));
      }
    // heights match the mesh's own vertices to a millimetre
    expect(worst).toBeLessThan(1e-3);
    expect(call('run', 'arch.obj', '--recipe', 'recipe.json', '--out', 'pack').code).toBe(0);
    const recipe = JSON.parse(readFileSync(path.join(folder, 'pack', 'recipe.json'), 'utf8')) as Recipe;
    expect(recipe.source.mesh).toEqual({ up: 'y', metres: 1 });
    expect(call('prove', 'pack', '--reference', 'arch.obj').json).toMatchObject({ holds: true, compared: 'source' });
  });
});
