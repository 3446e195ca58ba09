import { strToU8, zipSync } from 'fflate';
import { hills, pngSource, recipeWith } from '../../../tests/helpers/rasters';
import { MemoryFolder } from '../base';
import { filesOfZip, readDocument, readPack, run } from '.';

const recipe = recipeWith({ name: 'Gullsward', fit: { size: 127 } });

async function packText(name: string): Promise<string> {
  const folder = new MemoryFolder();
  await run(recipe, await pngSource(hills(128, 128), 128), folder);
  return new TextDecoder().decode(folder.files.get(name));
}

test('a recipe and an import page are told apart by what they hold, whatever they are called', async () => {
  const page = await packText('import.json');
  const text = await packText('recipe.json');
  expect(readDocument(text, 'a.json')).toEqual({ recipe, document: null });
  const found = readDocument(page, 'b.json');
  expect(found.recipe).toEqual(recipe);
  expect(found.document?.card.map((r) => r.id)).toContain('heightScale');
  expect(readPack(text, page)).toEqual(found);
});

test('a page of an earlier version opens with the recipe beside it, and says so where that is missing', async () => {
  const { recipe: _, ...older } = JSON.parse(await packText('import.json')) as Record<string, unknown>;
  const page = JSON.stringify(older);
  expect(readPack(await packText('recipe.json'), page).document?.name).toBe('Gullsward');
  expect(() => readDocument(page, 'import.json')).toThrow(
    expect.objectContaining({ code: 'pack-document', file: 'import.json' }),
  );
});

test.each([
  ['[]', 'pack-document'],
  ['null', 'pack-document'],
  ['"card"', 'pack-document'],
  ['{"target": 3}', 'recipe-version'],
  ['{"card": 1, "recipe": []}', 'recipe-syntax'],
])('%s is refused', (text, code) => {
  expect(() => readDocument(text, 'note.json')).toThrow(expect.objectContaining({ code }));
});

test('a zipped pack: the files beside its documents, whatever folder is around them, and none that leads elsewhere', () => {
  const zip = zipSync({
    'Gullsward/import.json': strToU8('{}'),
    'Gullsward/recipe.json': strToU8('{}'),
    'Gullsward/gullsward.raw': new Uint8Array(8),
    'Gullsward/old/recipe.json': strToU8('{"older": true}'),
    'Gullsward/../outside.raw': new Uint8Array(4),
    'Gullsward/..\\outside.raw': new Uint8Array(4),
    'other.raw': new Uint8Array(4),
  });
  const files = filesOfZip(zip, 'gullsward.zip');
  expect([...files.keys()].sort()).toEqual(['gullsward.raw', 'import.json', 'recipe.json']);
  expect(new TextDecoder().decode(files.get('recipe.json'))).toBe('{}');
});

test('a zip that is cut short, damaged or holds no pack is refused', () => {
  const zip = zipSync({ 'import.json': strToU8('{}'), 'a.raw': new Uint8Array(5000).map((_, i) => (i * 7919) >> 3) });
  const refused = (bytes: Uint8Array): unknown => {
    try {
      return filesOfZip(bytes, 'a.zip');
    } catch (reason) {
      return (reason as { code: string }).code;
    }
  };
  expect(refused(zip.subarray(0, zip.length - 30))).toBe('corrupt');
  expect(refused(new Uint8Array(0))).toBe('corrupt');
  expect(refused(zipSync({ 'a.raw': new Uint8Array(4) }))).toBe('pack-document');
  // a size that is a lie is found before anything of it is made
  const huge = zip.slice();
  const central = huge.length - 22 - (46 + 5) - (46 + 11);
  new DataView(huge.buffer).setUint32(central + 24, 0xfffffff0, true);
  // told by the list and not by the file itself, it is a contradiction
  expect(refused(huge)).toBe('corrupt');
  new DataView(huge.buffer).setUint32(22, 0xfffffff0, true);
  expect(refused(huge)).toBe('too-large');
});
