import { Parser } from 'expr-eval-fork';

const parser = new Parser();
// numbers and operators only: no functions, no random values
parser.functions = {};
parser.consts = {};

/** Units of length that may be typed, in metres; the foot is the international one. */
const LENGTHS: Readonly<Record<string, number>> = { mm: 0.001, cm: 0.01, m: 1, km: 1000, ft: 0.3048 };
const NUMBER = String.raw`(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?`;

/**
 * A typed number or sum (`601*30`, `1.5k`, `3 837,5`) as a number; null where it is none. Where `unit` is a length the
 * numbers may carry their own (`1.5 km`, `4921 ft`); those without one are in `unit`. Factors take percent (`180 %`).
 */
export function readNumber(text: string, unit = ''): number | null {
  const own = LENGTHS[unit];
  let plain = text
    .trim()
    .toLowerCase()
    .replace(/[\s\u00a0\u202f']/g, '')
    .replace(/−/g, '-')
    .replace(/×/g, '*')
    .replace(/(?<![\d,.])(\d{1,3}(?:,\d{3}){2,}|\d{1,3}(?:,\d{3})+(?=\.\d))/g, (grouped) => grouped.replace(/,/g, ''))
    .replace(/,/g, '.')
    .replace(new RegExp(`(${NUMBER})k(?!m)`, 'g'), '($1*1000)');
  if (own !== undefined) {
    plain = plain
      .replace(new RegExp(`(${NUMBER})(mm|cm|km|m|ft)`, 'g'), (_, n: string, of: string) =>
        of === unit ? `(${n})` : `(${n}*${LENGTHS[of] ?? 1}/${own})`,
      )
      .replace(/\)(mm|cm|km|m|ft)/g, (_, of: string) => (of === unit ? ')' : `)*${LENGTHS[of] ?? 1}/${own}`));
  }
  // a factor may be typed as percent
  if (unit === '×') plain = plain.replace(new RegExp(`(${NUMBER})%`, 'g'), '($1/100)');
  if (plain === '' || !/^[-+*/().\d^e]+$/.test(plain)) return null;
  try {
    const value: unknown = parser.evaluate(plain);
    return typeof value === 'number' && Number.isFinite(value) ? value : null;
  } catch {
    return null;
  }
}
