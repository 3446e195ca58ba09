import sharp from 'sharp';
import { LevelGridError, MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { planDocumentSchema, type PlanDocument } from '@/core/plan';
import { prove } from '@/core/proof';
import type { Recipe } from '@/core/recipe';
import { draftRecipe } from '@/core/edits';
import { run, zipOf } from '@/core/run';
import { faultOf, hills, pngSource, rawBytes, recipeWith } from '../helpers/rasters';

const SIDE = 300;
let source: ByteSource;
beforeAll(async () => {
  source = await pngSource(hills(SIDE, SIDE), SIDE);
});

async function pack(
  recipe: Recipe,
  from: ByteSource = source,
): Promise<{ folder: MemoryFolder; document: PlanDocument }> {
  const folder = new MemoryFolder();
  const document = await run(recipe, from, folder);
  return { folder, document };
}
type ProofOptions = Partial<Parameters<typeof prove>[0]>;
async function proofOf({ folder }: { folder: MemoryFolder }, options: ProofOptions = {}) {
  return (await prove({ file: (n) => folder.source(n), reference: source, ...options })).proof;
}
/** The same pack with a document that was changed. */
function withDocument({ folder }: { folder: MemoryFolder }, change: (document: PlanDocument) => object): void {
  const text = new TextDecoder().decode(folder.files.get('import.json'));
  const changed = change(JSON.parse(text) as PlanDocument);
  folder.files.set('import.json', new TextEncoder().encode(JSON.stringify(changed)));
}
/** Codes of a written PNG, by an independent reader. */
async function codesOf(bytes: Uint8Array): Promise<Uint16Array> {
  const raw = await sharp(bytes).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer();
  return new Uint16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.byteLength));
}
const states = (proof: { checks: readonly { id: string; state: string }[] }): Record<string, string> =>
  Object.fromEntries(proof.checks.map((c) => [c.id, c.state]));

describe('a pack', () => {
  test.each([
    ['component grid, range of the source', { fit: { size: 253 } }],
    ['component grid, range of the ground', { fit: { size: 253, filter: 'catmull-rom' }, height: { range: 'ground' } }],
    ['enlarged', { fit: { size: 505, filter: 'bilinear', clamp: true } }],
    [
      'area mean',
      { fit: { size: 127, filter: 'area' }, height: { strategy: 'headroom', below: 5, above: 10, offset: 'survey' } },
    ],
    ['nearest', { fit: { size: 127, filter: 'nearest' }, height: { offset: 'middle-code' } }],
    ['cropped', { fit: { size: 253, method: 'crop', at: [20, 7] }, height: { offset: 'sea', sea: 1500 } }],
    [
      'padded',
      {
        fit: { size: 379, method: 'pad', at: [30, 40], rim: 1400 },
        height: { offset: 'lowest-ground', strategy: 'headroom', below: 20, above: 1 },
      },
    ],
    [
      'a fixed scale that clips',
      { fit: { size: 253 }, height: { strategy: 'fixed', scale: 80, anchor: { at: 'middle', elevation: 1700 } } },
    ],
    ['pinned', { fit: { size: 253 }, height: { range: 'pinned', low: 1000, high: 3000 } }],
    ['a miniature with its zero in the centre', { fit: { size: 253, worldScale: 0.25, origin: 'centre' } }],
    [
      'odd grid, RAW from the south',
      { target: 'odd-grid', fit: { size: 257 }, output: { format: 'raw', byteOrder: 'big', rows: 'south' } },
    ],
    [
      'odd grid, fixed range',
      {
        target: 'odd-grid',
        fit: { size: 257 },
        height: { strategy: 'fixed', scale: 1000, anchor: { at: 'highest', elevation: 2200 } },
        output: { format: 'raw' },
      },
    ],
    ['nine tiles from the south', { fit: { size: 379 }, split: { across: 3, down: 3, rows: 'south' } }],
    [
      'abutting tiles',
      { fit: { size: 381 }, split: { across: 3, down: 3, edges: 'abutting' }, output: { format: 'raw' } },
    ],
    ['tiles across only', { fit: { size: [379, 127] }, split: { across: 3, down: 1 } }],
  ])('%s proves within its budget', async (_, parts) => {
    const made = await pack(recipeWith(parts));
    const proof = await proofOf(made);
    // a plan with a fault makes a pack that does not hold; what it writes is right all the same
    const planned = made.document.checks.filter((c) => c.state === 'fault').map((c) => c.id);
    const faults = proof.checks.filter((c) => c.state === 'fault').map((c) => c.id);
    expect(faults).toEqual(planned.flatMap((id) => (id === 'clipped' ? [id, `plan-${id}`] : [`plan-${id}`])));
    expect(proof.holds).toBe(planned.length === 0);
    const { max, budget } = proof.encodingError;
    expect(max).toBeLessThanOrEqual(budget.halfStep + budget.typing + budget.arithmetic);
    expect(max).toBeGreaterThan(0);
    expect(budget.typing).toBeLessThanOrEqual(proof.step / 10);
    expect(budget.arithmetic).toBeLessThanOrEqual(proof.step / 10);
    expect(proof.clipped).toEqual(made.document.height.clipped);
  });

  test('its PNG has the stated size, 16 bits, one channel; with the range of the ground it uses every code', async () => {
    const { folder, document } = await pack(recipeWith({ fit: { size: 253 }, height: { range: 'ground' } }));
    const bytes = folder.files.get('kettle.png')!;
    expect(await sharp(bytes).metadata()).toMatchObject({ width: 253, height: 253, channels: 1, depth: 'ushort' });
    const codes = await codesOf(bytes);
    expect(Math.min(...codes)).toBe(0);
    expect(Math.max(...codes)).toBe(65535);
    for (const s of document.spots) expect(codes[s.y * 253 + s.x]).toBe(s.code);
  });
  test('of an earlier version holds: its recipe says the same in other words', async () => {
    const made = await pack(recipeWith({ fit: { size: 253 } }));
    const older = ({ source: { heights, ...rest }, steps: __, ...recipe }: Recipe): object => {
      const { as: _, ...ends } = heights;
      return { ...recipe, version: 2, source: { ...ends, ...rest } };
    };
    withDocument(made, (document) => ({ ...document, recipe: older(document.recipe) }));
    const written = JSON.parse(new TextDecoder().decode(made.folder.files.get('recipe.json'))) as Recipe;
    made.folder.files.set('recipe.json', new TextEncoder().encode(JSON.stringify(older(written))));
    const proof = await proofOf(made);
    expect(proof.checks.filter((c) => c.state === 'fault')).toEqual([]);
    expect(proof.holds).toBe(true);
  });
  test('codes are never recalculated through lossless steps', async () => {
    const { folder } = await pack(
      recipeWith({
        fit: { size: 253, method: 'crop', at: [11, 22] },
        height: { range: 'pinned', low: 1310, high: 2140 },
      }),
    );
    const got = await codesOf(folder.files.get('kettle.png')!);
    const all = hills(SIDE, SIDE);
    for (let y = 0; y < 253; y++)
      for (let x = 0; x < 253; x++)
        if (got[y * 253 + x] !== all[(y + 22) * SIDE + x + 11]) throw new Error(`${x}, ${y}`);
  });
  test('a headerless source with nothing told gives the same samples to the bit', async () => {
    const raw = memorySource('hills.raw', rawBytes(hills(SIDE, SIDE), 'big'));
    const recipe = recipeWith({ fit: { size: 253 } });
    const a = await pack(recipe);
    const b = await pack(recipe, raw);
    expect(b.folder.files.get('kettle.png')).toEqual(a.folder.files.get('kettle.png'));
  });
  test('the same recipe and source give the same bytes, zip included', async () => {
    const recipe = recipeWith({ fit: { size: 253 }, split: { across: 2, down: 2 } });
    const zip = async () => {
      const { folder } = await pack(recipe);
      return new Uint8Array(
        await new Response(zipOf([...folder.files.keys()].map((n) => folder.source(n)!))).arrayBuffer(),
      );
    };
    expect(await zip()).toEqual(await zip());
  });
  test('tiles with shared edges are the single raster, cut', async () => {
    const whole = await pack(recipeWith({ fit: { size: 379 } }));
    const single = await codesOf(whole.folder.files.get('kettle.png')!);
    const tiled = await pack(recipeWith({ fit: { size: 379 }, split: { across: 3, down: 3, rows: 'south' } }));
    for (const file of tiled.document.files) {
      const codes = await codesOf(tiled.folder.files.get(file.name)!);
      const { x, y, width, height } = file.window;
      for (let r = 0; r < height; r++) {
        expect(codes.subarray(r * width, (r + 1) * width)).toEqual(
          single.subarray((y + r) * 379 + x, (y + r) * 379 + x + width),
        );
      }
    }
  });
  test('a draft has the same ground and heights on few vertices', () => {
    const recipe = recipeWith({
      fit: { size: 1513, layout: { quads: 63, patches: 1 } },
      split: { across: 3, down: 3 },
    });
    expect(draftRecipe(recipe, 127).fit).toMatchObject({ size: 379 });
    expect(draftRecipe(recipe, 127).fit.layout).toBeUndefined();
  });
  test('its documents are complete and hold no date and no path', async () => {
    const { folder, document } = await pack(recipeWith({ fit: { size: 253 } }));
    const text = (n: string) => new TextDecoder().decode(folder.files.get(n));
    expect(planDocumentSchema.parse(JSON.parse(text('import.json')))).toEqual(document);
    expect(document.files[0]?.sha256).toMatch(/^[0-9a-f]{64}$/);
    for (const word of ['Height scale', 'Highest', 'SHA-256', 'Read the vertices per side'])
      expect(text('import.md')).toContain(word);
    for (const n of ['import.json', 'import.md', 'import.html', 'recipe.json'])
      expect(text(n)).not.toMatch(/20\d\d-\d\d|\/work|\/tmp/);
  });
});

describe('the proof turns red', () => {
  const typedWrong = async (parts: object, typed: Record<string, number | string>) => {
    const proof = await proofOf(await pack(recipeWith(parts)), { typed });
    expect(proof.holds).toBe(false);
    return proof;
  };
  test.each([
    ['heightScale', 43],
    ['heightOffset', 12],
    ['groundScaleX', 3],
    ['groundScaleY', -2],
    ['eastOffset', 500],
    ['componentsX', 1],
  ])('when %s is typed wrong, and says which', async (id, by) => {
    const made = await pack(recipeWith({ fit: { size: 253 } }));
    const value = Number(made.document.card.find((r) => r.id === id)!.value);
    const proof = await typedWrong({ fit: { size: 253 } }, { [id]: value + by });
    expect(proof.wrongValues).toEqual([id]);
  });
  test.each([
    ['heightRange', 3],
    ['baseElevation', -1],
    ['extentX', 12],
    ['vertices', 1],
  ])('when %s of the odd grid is typed wrong', async (id, by) => {
    const parts = { target: 'odd-grid', fit: { size: 257 }, output: { format: 'raw' } };
    const made = await pack(recipeWith(parts));
    const value = Number(made.document.card.find((r) => r.id === id)!.value);
    expect((await typedWrong(parts, { [id]: value + by })).wrongValues).toEqual([id]);
  });
  test('an unknown value is refused', async () => {
    const made = await pack(recipeWith({ fit: { size: 253 } }));
    expect((await faultOf(() => proofOf(made, { typed: { colour: 3 } }))).code).toBe('usage');
  });

  test('when two tiles are exchanged, and names both', async () => {
    const made = await pack(recipeWith({ fit: { size: 379 }, split: { across: 3, down: 3 } }));
    const { files } = made.folder;
    const [a, b] = ['kettle-r00c01.png', 'kettle-r02c00.png'];
    const swap = files.get(a)!;
    files.set(a, files.get(b)!);
    files.set(b, swap);
    const proof = await proofOf(made, { ignoreChecksums: true });
    expect(proof.holds).toBe(false);
    const said = proof.checks
      .filter((c) => c.id === 'orientation')
      .map((c) => c.message)
      .join(' ');
    expect(said).toContain(`${a} does not lie where it should: it holds the ground of ${b}`);
    expect(states(proof)['seams']).toBe('fault');
  });
  test.each([
    ['its rows are upside down', (x: number, y: number, n: number) => [x, n - 1 - y]],
    ['it is mirrored east to west', (x: number, y: number, n: number) => [n - 1 - x, y]],
    ['it is turned by 180°', (x: number, y: number, n: number) => [n - 1 - x, n - 1 - y]],
    ['its axes are swapped', (x: number, y: number) => [y, x]],
  ] as const)('when a file is turned: %s', async (words, from) => {
    const made = await pack(recipeWith({ target: 'odd-grid', fit: { size: 257 }, output: { format: 'raw' } }));
    const bytes = made.folder.files.get('kettle.raw')!;
    const codes = new Uint16Array(bytes.slice().buffer);
    const turned = new Uint16Array(codes.length);
    for (let y = 0; y < 257; y++)
      for (let x = 0; x < 257; x++) {
        const [sx, sy] = from(x, y, 257) as [number, number];
        turned[y * 257 + x] = codes[sy * 257 + sx]!;
      }
    made.folder.files.set('kettle.raw', new Uint8Array(turned.buffer));
    const proof = await proofOf(made, { ignoreChecksums: true });
    expect(proof.checks.find((c) => c.id === 'orientation')?.message).toContain(words);
    expect(proof.holds).toBe(false);
  });
  test('when the byte order is wrong', async () => {
    const made = await pack(recipeWith({ target: 'odd-grid', fit: { size: 257 }, output: { format: 'raw' } }));
    made.folder.files.set(
      'kettle.raw',
      made.folder.files.get('kettle.raw')!.map((_, i, all) => all[i ^ 1]!),
    );
    expect(
      (await proofOf(made, { ignoreChecksums: true })).checks.find((c) => c.id === 'orientation')?.message,
    ).toContain('byte order');
  });
  test('when one sample of one file is off by one code', async () => {
    const made = await pack(recipeWith({ target: 'odd-grid', fit: { size: 257 }, output: { format: 'raw' } }));
    const bytes = made.folder.files.get('kettle.raw')!.slice();
    bytes[2 * 12345] = bytes[2 * 12345]! ^ 1;
    made.folder.files.set('kettle.raw', bytes);
    expect((await proofOf(made, { ignoreChecksums: true })).holds).toBe(false);
  });
  test('when only a checksum differs, also where that is ignored: the two pages contradict each other', async () => {
    const made = await pack(recipeWith({ fit: { size: 253 } }));
    withDocument(made, (d) => ({ ...d, files: d.files.map((f) => ({ ...f, sha256: '0'.repeat(64) })) }));
    expect(states(await proofOf(made))).toMatchObject({ checksums: 'fault', page: 'fault' });
    expect(states(await proofOf(made, { ignoreChecksums: true }))).toMatchObject({
      checksums: 'caution',
      page: 'fault',
      samples: 'holds',
    });
  });
  test('when a file is missing or of another size', async () => {
    const made = await pack(recipeWith({ fit: { size: 253 } }));
    const other = await pack(recipeWith({ fit: { size: 127 } }));
    made.folder.files.delete('kettle.png');
    expect((await proofOf(made)).holds).toBe(false);
    made.folder.files.set('kettle.png', other.folder.files.get('kettle.png')!);
    const proof = await proofOf(made, { ignoreChecksums: true });
    expect(proof.checks).toContainEqual(
      expect.objectContaining({ id: 'files', state: 'fault', message: expect.stringContaining('127 × 127') }),
    );
  });
  test('without the source the pack is held against its own page, and says so', async () => {
    const made = await pack(recipeWith({ fit: { size: 253 } }));
    const input = { file: (n: string) => made.folder.source(n) };
    const good = (await prove(input)).proof;
    expect(good).toMatchObject({ holds: true, compared: 'page', groundError: null, clipped: null, places: null });
    expect(good.encodingError.against).toBe('check spots');
    expect(good.checks).toContainEqual(
      expect.objectContaining({ id: 'compared', state: 'note', message: expect.stringContaining('not compared') }),
    );
    const bad = (await prove({ ...input, typed: { heightScale: 140 } })).proof;
    expect(bad).toMatchObject({ holds: false, wrongValues: ['heightScale'] });
  });
});

describe('nothing is left of a run that fails', () => {
  test('cancelled at any band', async () => {
    for (const after of [1, 2, 3, 4]) {
      const folder = new MemoryFolder();
      let asked = 0;
      const signal = {
        get aborted() {
          return ++asked > after;
        },
      };
      const error = await faultOf(() => run(recipeWith({ fit: { size: 253 } }), source, folder, {}, { signal }));
      expect(error.code).toBe('cancelled');
      await folder.commit();
      expect(folder.files.size).toBe(0);
    }
  });
  test('a source that is damaged', async () => {
    const bytes = (await source.read(0, source.size)).slice(0, source.size - 3000);
    const folder = new MemoryFolder();
    const error = await faultOf(() => run(recipeWith({ fit: { size: 253 } }), memorySource('cut.png', bytes), folder));
    expect(error).toMatchObject({ code: 'truncated', file: 'cut.png' });
    expect(folder.files.size).toBe(0);
  });
  test('a sink that fails', async () => {
    const folder = new MemoryFolder();
    const open = folder.open.bind(folder);
    folder.open = async (name) => {
      if (name === 'import.json')
        throw new LevelGridError('unwritable', { found: 'a full disk', expected: 'room', remedy: 'Make room.' });
      return open(name);
    };
    expect((await faultOf(() => run(recipeWith({ fit: { size: 253 } }), source, folder))).code).toBe('unwritable');
    await folder.commit();
    expect(folder.files.size).toBe(0);
  });
  test('a size off the ladder writes nothing', async () => {
    const folder = new MemoryFolder();
    expect((await faultOf(() => run(recipeWith({ fit: { size: 250 } }), source, folder))).code).toBe(
      'size-not-on-ladder',
    );
    expect(folder.files.size).toBe(0);
  });
});
