/** What the proof shares with what it judges: a further piece is added to this list with open eyes, or not at all. */
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';

const PROOF = path.resolve('src/core/proof');

/** Everything but types that the proof, without the part that runs the pipeline, takes from other folders of the core. */
function shared(): string[] {
  const found = new Set<string>();
  const files = readdirSync(PROOF, { recursive: true })
    .map(String)
    .filter((f) => f.endsWith('.ts') && !f.endsWith('.test.ts') && !f.startsWith('pipeline'));
  for (const file of files) {
    const text = readFileSync(path.join(PROOF, file), 'utf8');
    for (const [, names = '', from = ''] of text.matchAll(/^import \{([^}]*)\} from '([^']+)';/gm)) {
      const folder = path.relative(path.resolve('src/core'), path.resolve(PROOF, path.dirname(file), from));
      if (folder.startsWith('proof') || !from.startsWith('.')) continue;
      for (const name of names.split(',').map((n) => n.trim()))
        if (name !== '' && !name.startsWith('type ')) found.add(`${folder}: ${name}`);
    }
  }
  return [...found].sort();
}

test('the proof shares no more with plan and run than is listed', () => {
  expect(shared()).toEqual(SHARED);
});

const SHARED: readonly string[] = [
  'base: LevelGridError',
  'base: asLevelGridError',
  'base: checkpoint',
  'base: formatExtent',
  'base: formatLength',
  'base: formatNumber',
  'base: formatShort',
  'base: parseJson',
  'base: partOf',
  'base: piecesOf',
  'base: portableSha256',
  'formats: openHeightFile',
  'recipe: RECIPE_VERSION',
  'recipe: documentError',
  'recipe: parseRecipe',
  'recipe: parseRecipeText',
  'recipe: sourceReading',
  'wasm: CodeComparisonKernel',
];
