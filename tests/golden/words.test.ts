/** What plans and pages say is known by a sum: whoever changes a word raises the edition, and old packs stay what they are. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { MemoryFolder, type ByteSource } from '@/core/base';
import { EDITION } from '@/core/plan';
import type { Recipe } from '@/core/recipe';
import { run } from '@/core/run';
import { degrees } from '../helpers/ground-in-degrees';
import { hills, pngSource, recipeWith } from '../helpers/rasters';

type Parts = Parameters<typeof recipeWith>[0];
const PACKS: readonly Parts[] = [
  { fit: { size: [253, 127], worldScale: 0.3 }, height: { exaggeration: 1.7, sea: 1400 } },
  {
    fit: { size: [253, 379] },
    split: { across: 2, down: 3, rows: 'south' },
    output: { format: 'raw', byteOrder: 'big' },
  },
  {
    source: { assumed: ['low', 'high', 'spacing'] },
    target: 'odd-grid',
    fit: { size: 257, method: 'pad', at: [3, 4] },
    height: { strategy: 'fixed', scale: 700, anchor: { at: 'lowest', elevation: 1500 } },
    output: { format: 'raw', rows: 'south' },
  },
  {
    fit: { size: 127, method: 'crop', at: [20, 7] },
    steps: [{ op: 'turn', quarters: 1 }],
    height: { range: 'ground' },
  },
  { target: 'exchange', fit: { size: [97, 61] }, output: { format: 'exr' } },
  { target: 'stored-tiles', fit: { size: 129 }, output: { format: 'tiff', encoding: 'f32-share' } },
  { target: 'exchange', fit: { size: [97, 61] }, output: { format: 'tiff', encoding: 'f32', compression: 'deflate' } },
  { target: 'exchange', fit: { size: [97, 61] }, output: { format: 'asc' } },
];
/** Of a source that says where it lies. */
const ON_MAP: readonly Parts[] = [
  { target: 'exchange', fit: { size: [97, 61] } },
  { target: 'exchange', fit: { size: [61, 97] }, steps: [{ op: 'turn', quarters: 1 }], output: { format: 'asc' } },
];

/** Words alone: numbers follow from other things. */
const words = (text: string): string => text.replace(/[\d.−-]+/g, '#').replace(/data:image[^"]*/g, '');

test('words and edition change together', async () => {
  const sum = createHash('sha256');
  const source = await pngSource(hills(300, 200), 300, 'kettle.png');
  const placed = degrees('tarrowen.asc', 0, 0, 90, 70);
  const packs = [
    ...PACKS.map((parts) => ({ recipe: recipeWith(parts), from: source })),
    ...ON_MAP.map((parts): { recipe: Recipe; from: ByteSource } => {
      const made = recipeWith(parts);
      return { recipe: { ...made, source: { heights: { as: 'elevations' }, spacing: 30 } }, from: placed };
    }),
  ];
  for (const { recipe, from } of packs) {
    const folder = new MemoryFolder();
    await run(recipe, from, folder);
    for (const name of ['import.json', 'import.md', 'import.html'])
      sum.update(words(new TextDecoder().decode(folder.files.get(name)).replace(/[0-9a-f]{64}/g, '')));
  }
  const golden = JSON.parse(readFileSync(path.resolve('tests/golden/words.json'), 'utf8')) as object;
  // where this fails: raise EDITION in core/plan/document.ts, and put both into tests/golden/words.json
  expect({ edition: EDITION, words: sum.digest('hex') }).toEqual(golden);
});
