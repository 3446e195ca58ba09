import { Parser } from 'expr-eval-fork';

const parser = new Parser();
// numbers and operators only: no functions, no random values
parser.functions = {};
parser.consts = {};

/** A typed number or sum (`601*30`, `1.5k`, `3 837,5`) as a number; null where it is none. */
export function readNumber(text: string): number | null {
  const plain = text
    .trim()
    .replace(/[\s\u00a0\u202f']/g, '')
    .replace(/−/g, '-')
    .replace(/,/g, '.')
    .replace(/(\d+(?:\.\d+)?)k\b/gi, '($1*1000)');
  if (plain === '' || !/^[-+*/().\d^e]+$/i.test(plain)) return null;
  try {
    const value: unknown = parser.evaluate(plain);
    return typeof value === 'number' && Number.isFinite(value) ? value : null;
  } catch {
    return null;
  }
}
