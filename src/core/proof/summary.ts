import type { Proof } from './types';

const WORDS = { holds: 'Holds', note: 'Note', caution: 'Caution', fault: 'Fault' } as const;
const ORDER = ['fault', 'caution', 'note', 'holds'] as const;

/** What a proof found, in sentences for a page that is printed: the verdict, then what is wrong, then the rest. */
export function proofLines(
  { holds, compared, checks, trusted }: Pick<Proof, 'holds' | 'compared' | 'checks' | 'trusted'>,
  source: string,
): string[] {
  const against = compared === 'source' ? `against ${source}` : 'against its own page only';
  return [
    `${holds ? 'The pack holds' : 'The pack does not hold'}, read back with the values of this page and held ${against}.`,
    ...ORDER.flatMap((state) => checks.filter((c) => c.state === state).map((c) => `${WORDS[state]}: ${c.message}`)),
    ...trusted.map(({ what, guard }) => `Taken on trust: ${what}; guarded by ${guard}.`),
  ];
}
