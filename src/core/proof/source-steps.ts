import { apart, formatShort } from '../base';
import type { Recipe, SourceReading } from '../recipe';
import { sourceReading } from '../recipe';
import type { MeshProof, Page, WorkedStep } from './twin';
import type { ProofCheck } from './types';

/* What is said of the steps in which a source was read. */

/** Of a source of several files: each is the one that the recipe was made for, byte for byte. */
export function sourceFilesCheck({ source }: Recipe, sums: ReadonlyMap<string, string> | null): ProofCheck[] {
  const stated = (source.files ?? []).filter((f) => f.sha256 !== undefined);
  if (!sums || stated.length === 0) return [];
  const others = stated.filter((f) => sums.get(f.name) !== f.sha256).map((f) => f.name);
  return [
    others.length === 0
      ? {
          id: 'source-files',
          step: 'source',
          state: 'holds',
          message: `All ${stated.length} files of the source are unchanged.`,
        }
      : {
          id: 'source-files',
          step: 'source',
          state: 'fault',
          message: `${others.slice(0, 3).join(', ')}${others.length > 3 ? ` and ${others.length - 3} more` : ''} ${others.length === 1 ? 'is' : 'are'} not what the pack was made from: ${others.length === 1 ? 'its' : 'their'} bytes have changed.`,
        },
  ];
}

/** A mesh seen from above, against its triangles. */
export function meshCheck({ places, wrong, first, size }: MeshProof): ProofCheck {
  const at = { id: 'mesh', step: 'source' };
  if (!size)
    return {
      ...at,
      state: 'fault',
      message: 'The raster is not as large as the mesh, its spacing and its volume make it.',
    };
  if (!first)
    return {
      ...at,
      state: 'holds',
      message: `${places} places were looked up among all triangles a second time: each holds the highest surface.`,
    };
  return {
    ...at,
    state: 'fault',
    message: `${wrong} of ${places} places don’t hold the highest surface of the mesh: column ${first.column}, row ${first.row} holds ${apart(first.found, first.expected)} m, and the mesh has ${apart(first.expected, first.found)} m there.`,
  };
}

/** Choices of how a source is read in words. */
const READING_WORDS: Readonly<Record<keyof SourceReading, string>> = {
  raw: 'the layout of the headerless file',
  files: 'where its files lie',
  mesh: 'how the mesh is baked',
  partial: 'whether rows that can’t be read are voids',
};

/** What may be found where nobody says it: the recipe need not name it then. */
const FOUND: ReadonlySet<string> = new Set(['raw', 'mesh', 'files']);

/** The reading that the source was opened with against the one that the recipe asks for. */
export function readingCheck(recipe: Recipe, opened: SourceReading): ProofCheck {
  const asked: SourceReading = sourceReading(recipe);
  const keys = [...new Set([...Object.keys(asked), ...Object.keys(opened)])] as (keyof SourceReading)[];
  const other = keys.filter((key) => {
    if (asked[key] === undefined && FOUND.has(key)) return false;
    return plainly(asked[key]) !== plainly(opened[key]);
  });
  const id = 'reading';
  return other.length === 0
    ? { id, step: 'source', state: 'holds', message: 'The source was read as the recipe says.' }
    : {
        id,
        step: 'source',
        state: 'fault',
        message: `The source was not read as the recipe says: ${other.map((k) => READING_WORDS[k]).join(', ')}.`,
      };
}

/** As text that does not mind the order of keys, nor what was worked out besides the choice (checksums). */
function plainly(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) => {
    if (typeof v !== 'object' || v === null || Array.isArray(v)) return v;
    const entries = Object.entries(v).filter(([key, of]) => key !== 'sha256' && of !== undefined);
    return Object.fromEntries(entries.sort(([a], [b]) => (a < b ? -1 : 1)));
  });
}

/** Most by which what a step changed may differ in two ways of summing it up. */
const CHANGE = 1e-4;
/** Share of the changed samples that may be told otherwise. */
const COUNT = 1e-5;

/** Of each step that is on: that it was worked out a second time, and what it changed against what the page says. */
export function stepChecks(recipe: Recipe, page: Page, worked: readonly WorkedStep[]): ProofCheck[] {
  return recipe.steps.flatMap((step, index): ProofCheck[] => {
    if (step.off) return [];
    const named = `Step ${index + 1} (${step.op})`;
    const at = { step: `steps.${index}` };
    const found = worked.find((w) => w.index === index);
    if (!found)
      return [
        {
          id: step.op,
          ...at,
          state: 'fault',
          message: `${named} was worked out by no check: nothing is proved of it.`,
        },
      ];
    const { judged, change } = found;
    const changed = change ? changeCheck(named, page.steps?.[index], change()) : null;
    return [
      judged
        ? { id: step.op, ...at, state: judged.holds ? 'holds' : 'fault', message: `${named}: ${judged.message}` }
        : { id: step.op, ...at, state: 'holds', message: `${named} was worked out a second time from the source.` },
      ...(changed ? [{ id: `${step.op}-change`, ...at, ...changed }] : []),
    ];
  });
}

type Said = NonNullable<Page['steps']>[number];

/** A change with as many digits as it takes to tell it from what is said of it. */
const told = (value: number, other: number | null | undefined): string =>
  typeof other === 'number' && other !== value ? apart(value, other) : formatShort(value);

/** What a step changed, as the page says it, against what was counted. */
function changeCheck(
  named: string,
  said: Said | undefined,
  { samples, measured, largest, sum }: ReturnType<NonNullable<WorkedStep['change']>>,
): Pick<ProofCheck, 'state' | 'message'> | null {
  // packs of earlier versions don't say it
  if (!said) return null;
  const mean = measured > 0 ? sum / measured : 0;
  const near = (a: number | null | undefined, b: number): boolean =>
    typeof a === 'number' && Math.abs(a - b) <= CHANGE * Math.max(Math.abs(b), 1e-6);
  // of numbers with a fraction some lie where a change is one just so
  const few = typeof said.samples === 'number' && Math.abs(said.samples - samples) <= COUNT * samples;
  const same = (said.samples === samples || few) && near(said.largest, largest) && near(said.mean, mean);
  return {
    state: same ? 'holds' : 'fault',
    message: same
      ? `${named} changes ${samples} samples, as the page says.`
      : `${named} changes ${samples} samples, by ${told(largest, said.largest)} m at most; the page says ${said.samples ?? 'nothing'} and ${typeof said.largest === 'number' ? `${told(said.largest, largest)} m` : 'nothing'}.`,
  };
}
