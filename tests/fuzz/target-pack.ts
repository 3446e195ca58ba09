import { MemoryFolder, memorySource, type ByteSource } from '../../src/core/base';
import { prove } from '../../src/core/proof';
import { parseRecipe } from '../../src/core/recipe';
import { run } from '../../src/core/run';
import { hills, pngSource } from '../helpers/rasters';
import { bent, torn } from './json';
import { ours, type Target } from './target';

interface Pack {
  readonly source: ByteSource;
  readonly files: ReadonlyMap<string, Uint8Array>;
  readonly documents: ReadonlyMap<string, unknown>;
}

let kept: Promise<Pack> | null = null;

/** A pack of four tiles, made once. */
async function pack(): Promise<Pack> {
  const source = await pngSource(hills(70, 70), 70);
  const folder = new MemoryFolder();
  const recipe = parseRecipe({
    version: 2,
    name: 'kettle',
    source: { low: 1310, high: 2140, spacing: 2.5 },
    target: 'odd-grid',
    fit: { size: 65 },
    split: { across: 2, down: 2 },
    output: { format: 'raw' },
  });
  await run(recipe, source, folder);
  const text = (name: string): unknown => JSON.parse(new TextDecoder().decode(folder.files.get(name)));
  return {
    source,
    files: folder.files,
    documents: new Map(['import.json', 'recipe.json'].map((name) => [name, text(name)])),
  };
}

interface Input {
  readonly file: string;
  readonly change: (of: Pack) => string;
  readonly withSource: boolean;
}

/** What a page says besides: how values came about, what they cost, earlier checks, the words of a layout, derived figures; packs of earlier versions hold no recipe there. */
const NOT_JUDGED =
  /^import\.json\.(checks|cost|typing|layoutReason|layoutText|source\.file|card\.#\.(assumed|exact|digits|formula|note|fits)|files\.#\.role|height\.(effectiveStep|sourceStep|jitterPercent|terraceAt2Percent)|recipe$)/;
/** The same without a source: how high the ground is and how much of it is clipped can't be known. */
const UNKNOWN_ALONE = /^import\.json\.(height\.(ground|clipped)|spots|source)|^recipe\.json/;
/** Choices of the recipe that make no difference to this pack: it is resampled, and nothing overshoots. */
const NO_DIFFERENCE = /^recipe\.json\.fit\.(at|clamp)/;

/** The first value that differs, before and after, for whoever looks into it. */
function differences(a: unknown, b: unknown): string {
  const [x, y] = [a, b].map((v) => JSON.stringify(v, null, 1).split('\n'));
  const at = x!.findIndex((line, i) => line !== y![i]);
  return `${x![at]?.trim()} → ${y![at]?.trim()}`;
}

const matters = (place: string, withSource: boolean): boolean =>
  !NOT_JUDGED.test(place) && !NO_DIFFERENCE.test(place) && (withSource || !UNKNOWN_ALONE.test(place));

const hasRecipe = (of: unknown): of is { recipe: unknown } => typeof of === 'object' && of !== null && 'recipe' in of;

/** What was changed in a pack that still holds, by its path without numbers: see the allowed ones. */
const path = (a: unknown, b: unknown, at = ''): string | null => {
  if (Object.is(a, b)) return null;
  // the proof allows for rounding
  const slack = /spots|placement/.test(at) ? 5e-3 : 1e-6;
  if (typeof a === 'number' && typeof b === 'number' && Math.abs(a - b) <= 3e-6 * Math.abs(a) + slack) return null;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return at;
  for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
    // what nobody knows is not read
    if (!Object.hasOwn(a, key) && !Array.isArray(a)) continue;
    const [x, y] = [a, b].map((v) => (Object.hasOwn(v, key) ? (v as Record<string, unknown>)[key] : undefined));
    const found = path(x, y, `${at}.${/^\d+$/.test(key) ? '#' : key}`);
    if (found !== null) return found;
  }
  return null;
};

export const packDocuments: Target<Input> = {
  name: 'pack documents',
  make: (chance) => {
    const file = chance.one(['import.json', 'import.json', 'import.json', 'recipe.json', 'import.md', 'import.html']);
    const printed = file === 'import.md' || file === 'import.html';
    const tear = printed || chance.in(5);
    // the changes are made from the numbers that are drawn here, when the pack is there
    return {
      file,
      withSource: !chance.in(4),
      change: ({ files, documents }) =>
        tear
          ? torn(new TextDecoder().decode(files.get(file)), chance)
          : JSON.stringify(bent(documents.get(file), chance), null, 2),
    };
  },
  async check({ file, change, withSource }, count) {
    const made = await (kept ??= pack());
    const text = change(made);
    const bytes = new TextEncoder().encode(text);
    try {
      const { proof } = await prove({
        file: (name) => {
          const there = name === file ? bytes : made.files.get(name);
          return there ? memorySource(name, there) : null;
        },
        ...(withSource ? { reference: made.source } : {}),
      });
      if (!text.includes('NaN') && /NaN|Infinity|undefined|\[object/.test(JSON.stringify(proof.checks)))
        throw new Error(
          `a proof that says nothing: ${/.{0,120}(NaN|Infinity|undefined|\[object).{0,60}/.exec(JSON.stringify(proof.checks))?.[0]}`,
        );
      if (proof.holds && !/\.(md|html)$/.test(file)) {
        const filled = (of: unknown): unknown =>
          file === 'recipe.json'
            ? parseRecipe(of)
            : { ...(of as object), ...(hasRecipe(of) ? { recipe: parseRecipe(of.recipe) } : {}) };
        const changed = path(filled(made.documents.get(file)), filled(JSON.parse(text)));
        if (changed !== null && matters(file + changed, withSource))
          throw new Error(
            `${file}${changed} was changed and the pack still holds${withSource ? '' : ' by itself'}: ${differences(made.documents.get(file), JSON.parse(text))}`,
          );
      }
      count(proof.holds ? 'holds' : 'does not hold');
      return 'accepted';
    } catch (reason) {
      ours(reason);
      return 'refused';
    }
  },
};
