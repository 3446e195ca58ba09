import { formatLength, formatNumber } from '../core/base';
import type { Proof } from '../core/proof';
import { checkLines, table } from './output';

/** A proof in the words of the command line. */
export function proofText(proof: Proof): string {
  const { encodingError: e, groundError: g, clipped } = proof;
  const figures = (f: { max: number; mean: number; rms: number }): string[] => [
    formatLength(f.max),
    formatLength(f.mean),
    formatLength(f.rms),
  ];
  return [
    `${proof.holds ? '■ The pack holds' : '⧄ The pack does not hold'}${proof.draft === null ? '' : ` (a draft on ${proof.draft} vertices)`}${proof.compared === 'page' ? ', held against its own page only' : ''}.`,
    '',
    table(
      ['', 'Largest', 'Mean', 'RMS'],
      [
        [`Encoding error (against ${e.against})`, ...figures(e)],
        ...(g ? [['Ground error (fitted ground against source)', ...figures(g)]] : []),
      ],
    ),
    `Budget: ${formatLength(e.budget.halfStep)} half step + ${formatLength(e.budget.typing)} typing + ${formatLength(e.budget.arithmetic)} arithmetic`,
    ...(clipped ? [`Clipped: ${formatNumber(clipped.low, 0)} low, ${formatNumber(clipped.high, 0)} high`] : []),
    '',
    checkLines(proof.checks),
    '',
    'Taken on trust:',
    ...proof.trusted.map(({ what, guard }) => `  ${what} (guarded by ${guard})`),
  ].join('\n');
}
