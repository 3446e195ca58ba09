import type { Recipe } from '../recipe';
import { proofLines } from './summary';
import { toldOnPages, type Page, type ReadPages } from './twin';
import type { Proof, ProofCheck } from './types';

/* What a pack says of itself besides its values: what rests on placeholders, what its plan has found, what its proof. */

const PLACEHOLDERS = {
  low: 'the elevation of the lowest code',
  high: 'the elevation of the highest code',
  unit: 'the unit of the heights',
  spacing: 'the distance from sample to sample',
} as const;

/** What the printed pages tell of a proof is what this one, made with the source, has found. */
export function toldCheck(
  pages: ReadPages,
  { checks, trusted }: Pick<Proof, 'checks' | 'trusted'>,
  source: string,
): ProofCheck[] {
  // where something else is wrong, it is only to be expected that the pages tell of better days
  const holds = checks.every((c) => c.state !== 'fault');
  if (!holds) return [];
  const found = proofLines({ holds, compared: 'source', checks, trusted }, source);
  return toldOnPages(pages).flatMap(({ file, told }): ProofCheck[] => {
    if (told.length === 0) return [];
    const plain = (line: string): string => line.replace(/[\s\u00a0]+/g, ' ').trim();
    const [, ...lines] = found.map(plain);
    // what holds may be told in more ways than one; what does not may not be kept quiet
    const surplus = told.slice(1).find((line) => !lines.includes(line));
    const quiet = lines.find((line) => !line.startsWith('Holds: ') && !told.includes(line));
    const first = told[0] ?? '';
    const verdict = first.startsWith('The pack holds');
    if (verdict && surplus === undefined && quiet === undefined) return [];
    const what = !verdict ? `“${first}”` : surplus !== undefined ? `“${surplus}”` : `nothing of “${quiet ?? ''}”`;
    return [
      {
        id: 'told',
        step: 'output',
        state: 'fault',
        message: `${file} does not tell what the proof has found: it says ${what}.`,
      },
    ];
  });
}

/** What is wrong with the plan is wrong with the pack, however well its files hold what was planned. */
export const planFaults = (found: Page['checks']): ProofCheck[] =>
  found
    .filter((c) => c.state === 'fault')
    .map(({ id, message }) => ({
      id: `plan-${id}`,
      step: 'output',
      state: 'fault',
      message: `Of the plan: ${message}`,
    }));

/** Files may be right to the code and stand for nothing: numbers that nobody has said are named. */
export function placeholderCheck({ source: { assumed = [] } }: Recipe): ProofCheck[] {
  if (assumed.length === 0) return [];
  const names = assumed.map((a) => PLACEHOLDERS[a]);
  return [
    {
      id: 'placeholders',
      step: 'source',
      state: 'caution',
      message: `It rests on ${names.length === 1 ? 'a placeholder that nobody has said' : 'placeholders that nobody has said'}: ${names.join(', ')}. Heights and distances are right only if ${names.length === 1 ? 'it is' : 'they are'}.`,
    },
  ];
}
