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
    // another form of import would pass by the list
    expect(text).not.toMatch(/^import (?!type\b|\{)[^']*from '\./m);
    for (const [, names = '', from = ''] of text.matchAll(/^import \{([^}]*)\} from '([^']+)';/gm)) {
      const folder = path.relative(path.resolve('src/core'), path.resolve(PROOF, path.dirname(file), from));
      if (folder.startsWith('proof') || !from.startsWith('.')) continue;
      for (const name of names.split(',').map((n) => n.trim()))
        if (name !== '' && !name.startsWith('type ')) found.add(`${name} of ${folder}`);
    }
  }
  return [...found].sort();
}

test('the proof shares no more with plan and run than is listed', () => {
  expect(shared()).toEqual(SHARED);
});

const SHARED: readonly string[] = [
  'CodeComparisonKernel of wasm',
  'LevelGridError of base',
  'RECIPE_VERSION of recipe',
  'WholeGroundKernel of wasm',
  'apart of base',
  'asLevelGridError of base',
  'checkpoint of base',
  'documentError of recipe',
  'endsKernel of wasm',
  'formatExtent of base',
  'formatLength of base',
  'formatNumber of base',
  'formatShort of base',
  'openHeightFile of formats',
  'parseJson of base',
  'parseRecipe of recipe',
  'parseRecipeText of recipe',
  'partOf of base',
  'piecesOf of base',
  'portableSha256 of base',
  'sourceReading of recipe',
];
