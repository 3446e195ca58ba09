import { EDITION, planDocumentSchema, type PlanDocument } from '../../plan';
import { parseRecipe } from '../../recipe';
import { importPage, importPageHtml } from '../../run';
import { targetOf } from '../../targets';
import type { ProofCheck } from '../types';

/*
 * Every word of a pack's documents against what the pipeline says and prints. It shows that nobody has changed them;
 * whether they are right is for the slow twin to say, which works out their numbers and sentences anew.
 */

const fault = (message: string): ProofCheck => ({ id: 'words', step: 'output', state: 'fault', message });

/** Whether the words of a pack are those that this program would write; a caution where they can't be compared. */
export const editionCheck = (edition: number): ProofCheck[] =>
  edition === EDITION
    ? []
    : [
        {
          id: 'words',
          step: 'output',
          state: 'caution',
          message:
            'Another edition of Level Grid has written this pack: its numbers were worked out again, and its sentences were not judged.',
        },
      ];

/** `import.json` as it was written, and as the pipeline would write it; checksums are judged by the files. */
export function documentCheck(written: unknown, made: PlanDocument): ProofCheck {
  const file = { ...made.source, file: (written as PlanDocument).source.file };
  const expected = plainly({ ...made, source: file });
  const found = plainly(withRecipe(written));
  const other = firstOther(found, expected, []);
  return other
    ? fault(
        `import.json is not what Level Grid writes for this source and recipe: ${other.path} is ${short(other.found)}, not ${short(other.expected)}.`,
      )
    : {
        id: 'words',
        step: 'output',
        state: 'holds',
        message: 'Every word of import.json is what Level Grid writes for this source and recipe.',
      };
}

/**
 * The printed pages against import.json, printed anew; what they tell of the proof left out. `picture`: of the ground, as
 * the pipeline draws it; null where there is no source: then that of the page is taken.
 */
export function reprintCheck(
  written: unknown,
  printed: Readonly<Record<'markdown' | 'html', string | null>>,
  picture: Uint8Array | null,
): ProofCheck[] {
  const document = planDocumentSchema.safeParse(withRecipe(written));
  if (!document.success)
    return [fault('import.json is not as Level Grid writes it, so the pages can’t be printed anew.')];
  const target = targetOf(document.data.recipe.target);
  const terrain = picture ?? pictureOn(printed.html ?? '');
  const pages = [
    ['import.md', printed.markdown, importPage(document.data, target), MARKDOWN_RESULT],
    ['import.html', printed.html, importPageHtml(document.data, target, terrain), HTML_RESULT],
  ] as const;
  return pages.flatMap(([name, found, expected, result]) => {
    if (found === null) return [];
    const a = linesOf(found, result);
    const b = linesOf(expected, result);
    const at = a.findIndex((line, i) => line !== b[i]);
    if (at < 0 && a.length === b.length) return [];
    const where = at < 0 ? a.length : at;
    const undrawn = (line = ''): string => line.replace(PICTURE, '');
    if (a[where] !== undefined && b[where] !== undefined && undrawn(a[where]) === undrawn(b[where]))
      return [fault(`The picture of the ground in ${name} is not that of these samples.`)];
    return [fault(`${name} is not what is printed of import.json: ${difference(a[where], b[where])}.`)];
  });
}

/** What is told of the proof is judged by itself. */
const MARKDOWN_RESULT = /\n## Proof\n\n[^]*?(?=\n\n## )/;
const HTML_RESULT = /<!-- proof -->[^]*?<!-- end of proof -->/;
/** The picture of the ground. */
const PICTURE = /data:image\/png;base64,([\w+/]*=*)/;

function pictureOn(html: string): Uint8Array {
  try {
    return Uint8Array.from(atob(PICTURE.exec(html)?.[1] ?? ''), (c) => c.charCodeAt(0));
  } catch {
    // cut short: it will not be what is printed of it
    return new Uint8Array(0);
  }
}

const linesOf = (page: string, result: RegExp): string[] =>
  page
    .replace(result, '')
    .split('\n')
    .filter((line) => line.trim() !== '');

/** The recipe of a page with its defaults filled in. */
function withRecipe(written: unknown): unknown {
  const { recipe, ...rest } = written as { recipe?: unknown };
  return recipe === undefined ? rest : { ...rest, recipe: parseRecipe(recipe) };
}

/** As JSON keeps it, without checksums. */
const plainly = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value, (key, of: unknown) => (key === 'sha256' ? undefined : of)));

interface Other {
  readonly path: string;
  readonly found: unknown;
  readonly expected: unknown;
}

/** Numbers that a sum in another order may move by their last bits. */
const LAST_BITS = 1e-9;

/** The first value that differs, and where. */
function firstOther(found: unknown, expected: unknown, path: readonly string[]): Other | null {
  if (typeof found === 'object' && found !== null && typeof expected === 'object' && expected !== null) {
    const a = found as Record<string, unknown>;
    const b = expected as Record<string, unknown>;
    for (const key of new Set([...Object.keys(a), ...Object.keys(b)])) {
      const id = Array.isArray(expected) ? (nameOf(b[key]) ?? nameOf(a[key]) ?? key) : key;
      const other = firstOther(a[key], b[key], [...path, id]);
      if (other) return other;
    }
    return null;
  }
  if (Object.is(found, expected)) return null;
  if (
    typeof found === 'number' &&
    typeof expected === 'number' &&
    Math.abs(found - expected) <= LAST_BITS * Math.abs(expected)
  )
    return null;
  return { path: path.join(', '), found, expected };
}

/** What a row of a list goes by. */
const nameOf = (row: unknown): string | null => {
  const { label, name, file } = (row ?? {}) as Record<string, unknown>;
  const found = [label, name, file].find((n) => typeof n === 'string');
  return typeof found === 'string' ? found : null;
};

/** Where two lines part, in words. */
function difference(found = 'nothing', expected = 'nothing'): string {
  const at = [...found].findIndex((c, i) => c !== expected[i]);
  const from = at < 60 ? 0 : at - 30;
  const part = (line: string): string => `“${from > 0 ? '…' : ''}${short(line.slice(from))}”`;
  return `${part(found)} stands where ${part(expected)} should`;
}

const short = (value: unknown): string => {
  const text = typeof value === 'string' ? value : value === undefined ? 'missing' : JSON.stringify(value);
  return text.length > 90 ? `${text.slice(0, 88)}…` : text;
};
