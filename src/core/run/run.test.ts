import { unzipSync } from 'fflate';
import { hills, pngSource, rawBytes, recipeWith } from '../../../tests/helpers/rasters';
import { memorySource, MemoryFolder, type ByteSource } from '../base';
import { draftRecipe } from '../edits';
import { countSource, run, typedText, zipOf } from '.';

/** A source that counts the bytes that are read of it. */
function metered(source: ByteSource): ByteSource & { readonly read: ByteSource['read']; taken: () => number } {
  let taken = 0;
  return {
    name: source.name,
    size: source.size,
    read: async (at, length) => {
      const bytes = await source.read(at, length);
      taken += bytes.length;
      return bytes;
    },
    taken: () => taken,
  };
}

async function everything(opened: { bands(): AsyncIterable<{ data: ArrayLike<number> }> }): Promise<number[]> {
  const out: number[] = [];
  for await (const { data } of opened.bands()) for (let i = 0; i < data.length; i++) out.push(data[i]!);
  return out;
}

test('a counted source is decoded once: later passes read nothing, and each gives the same samples', async () => {
  const codes = hills(300, 200);
  const source = metered(await pngSource(codes, 300));
  const counted = await countSource(source, undefined);
  const after = source.taken();
  for (let pass = 0; pass < 2; pass++) expect(await everything(counted.opened)).toEqual([...codes]);
  expect(source.taken()).toBe(after);
  expect(counted.facts.stats).toMatchObject({ samples: 60000, voids: 0, min: 0, max: 65535 });
});

test('a first pass that was not finished keeps nothing half', async () => {
  const codes = hills(700, 600);
  const counted = await countSource(await pngSource(codes, 700), undefined);
  for await (const band of counted.opened.bands()) {
    expect(band.y).toBe(0);
    break;
  }
  expect(await everything(counted.opened)).toEqual([...codes]);
});

test('the zip holds every file as it is, in order, and is the same on any day', async () => {
  const files = [
    memorySource('b.raw', rawBytes(hills(40, 30), 'big')),
    memorySource('a.json', new TextEncoder().encode('{}')),
    memorySource('empty.txt', new Uint8Array(0)),
  ];
  const bytes = async () => new Uint8Array(await new Response(zipOf(files)).arrayBuffer());
  const zip = await bytes();
  const found = unzipSync(zip);
  expect(Object.keys(found)).toEqual(['b.raw', 'a.json', 'empty.txt']);
  for (const file of files) expect(Buffer.compare(found[file.name]!, await file.read(0, file.size))).toBe(0);
  expect(Buffer.compare(await bytes(), zip)).toBe(0);
});

test('a draft keeps ground, tiles and heights and forgets the layout of the full size', () => {
  const full = recipeWith({ fit: { size: 1525, layout: { quads: 127, patches: 1 } }, split: { across: 3, down: 2 } });
  const draft = draftRecipe(full, 127);
  expect(draft.fit.size).toEqual([3 * 126 + 1, 2 * 126 + 1]);
  expect(draft.fit.layout).toBeUndefined();
  expect(draft.split).toEqual(full.split);
  expect(draft.height).toEqual(full.height);
  expect(draftRecipe(recipeWith({}), 127).fit.size).toBe(127);
  expect(() => draftRecipe(recipeWith({ fit: { method: 'crop' } }), 127)).toThrow(
    expect.objectContaining({ code: 'recipe-value' }),
  );
});

test('nothing becomes visible of a pack that fails or is cancelled', async () => {
  const codes = hills(300, 300);
  for (const when of ['damaged', 'cancelled'] as const) {
    const whole = await pngSource(codes, 300);
    const bytes = (await whole.read(0, whole.size)).slice();
    if (when === 'damaged') bytes[bytes.length - 200]! ^= 0x55;
    const folder = new MemoryFolder();
    let reports = 0;
    const job = {
      signal: {
        get aborted() {
          return when === 'cancelled' && reports > 1;
        },
      },
      report: () => {
        reports++;
      },
    };
    await expect(
      run(recipeWith({ fit: { size: 253 } }), memorySource('hills.png', bytes), folder, {}, job),
    ).rejects.toMatchObject({ code: when === 'cancelled' ? 'cancelled' : expect.stringMatching(/checksum|corrupt/) });
    expect(folder.files.size).toBe(0);
  }
});

test('the import page prints what the document holds', async () => {
  const folder = new MemoryFolder();
  const document = await run(
    recipeWith({ fit: { size: 253 }, split: { across: 2, down: 1, edges: 'shared', pattern: '{name}-{col}' } }),
    await pngSource(hills(300, 300), 300),
    folder,
  );
  const page = new TextDecoder().decode(folder.files.get('import.md'));
  for (const row of document.card) expect(page).toContain(`| ${row.label} | ${typedText(row)} |`);
  for (const spot of document.spots) expect(page).toContain(spot.label);
  for (const file of document.files) {
    expect(page).toContain(file.name);
    expect(folder.files.get(file.name)!.length).toBeGreaterThan(0);
    expect(file.sha256).toMatch(/^[0-9a-f]{64}$/);
  }
});
