import { formatLength, formatNumber, LevelGridError } from '../base';
import type { TargetDecoder, TypedValues } from './decoders';
import { asTyped, type ExpectedGrid, type ExpectedRow, type Page, type PageRow } from './twin';
import type { ProofCheck } from './types';

/** Words that a row of words may hold. */
const WORDS: Readonly<Record<string, readonly string[]>> = {
  byteOrder: ['little', 'big'],
  rowOrder: ['north', 'south'],
};

/**
 * The values of the card with those that were typed otherwise. Throws `usage` for an id that the card does not have,
 * and for a value that is not of its kind.
 */
export function typedValues(
  page: Page,
  typed: Readonly<Record<string, string | number>>,
): Map<string, number | string> {
  const values = new Map<string, number | string>(page.card.map((row) => [row.id, row.value]));
  for (const [id, value] of Object.entries(typed)) {
    const row = page.card.find((r) => r.id === id);
    if (!row) {
      throw new LevelGridError('usage', {
        found: `"${id}" as a typed value`,
        expected: `one of ${page.card.map((r) => r.id).join(', ')}`,
        remedy: 'Name a value of the import card.',
      });
    }
    values.set(id, valueFor(row, value));
  }
  return values;
}

function valueFor(row: PageRow, value: string | number): number | string {
  const words = WORDS[row.id];
  if (words) {
    if (words.includes(String(value))) return value;
  } else {
    const number = typeof value === 'number' ? value : numberOf(value);
    if (Number.isFinite(number)) return number;
  }
  throw new LevelGridError('usage', {
    found: `"${value}" for ${row.id}`,
    expected: words ? words.join(' or ') : 'a number',
    remedy: words ? `Example: ${row.id}=${words[0] ?? ''}` : `Example: ${row.id}=${asTyped(row)}`,
  });
}

const numberOf = (text: string): number =>
  /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(text.trim()) ? Number(text) : NaN;

/**
 * Holds every value against what it must be, worked out from recipe and source. Heights are also judged by what the
 * files show; this says which value is to blame.
 */
export function valueChecks(
  page: Page,
  values: TypedValues,
  expected: readonly ExpectedRow[],
  decoder: TargetDecoder,
  grid: ExpectedGrid,
  explained: ReadonlySet<'ground' | 'heights'>,
): { wrong: string[]; found: ProofCheck[] } {
  const wrong: string[] = [];
  const found: ProofCheck[] = [];
  const rows = new Map(page.card.map((row) => [row.id, row]));
  const labelOf = (id: string): string => rows.get(id)?.label ?? id;
  const missing = expected.filter((e) => !rows.has(e.id)).map((e) => e.id);
  const surplus = page.card.filter((r) => !expected.some((e) => e.id === r.id)).map((r) => r.label);
  const twice = page.card.filter((r, i) => page.card.findIndex((o) => o.id === r.id) !== i).map((r) => r.label);
  for (const [list, words] of [
    [missing, 'The card lacks'],
    [surplus, 'The card has what the target does not ask for:'],
    [twice, 'The card says twice:'],
  ] as const)
    if (list.length > 0)
      found.push({ id: 'card', step: 'output', state: 'fault', message: `${words} ${list.join(', ')}.` });
  for (const row of expected) {
    const told = rows.get(row.id);
    const value = values.get(row.id);
    if (!told || value === undefined) continue;
    const off = whatIsOff(told, value, row);
    if (off.typed) wrong.push(row.id);
    // what only follows from a cause that was named is none
    if (off.words.length === 0 || (row.rests && explained.has(row.rests))) continue;
    const then = off.typed ? consequence(row.id, page, decoder, grid) : '';
    found.push({
      id: `value-${row.id}`,
      step: row.rests === 'heights' ? 'height' : 'output',
      state: 'fault',
      message: `${labelOf(row.id)} ${off.words.join(', and ')}${then}.`,
    });
  }
  if (found.length === 0 && wrong.length === 0)
    found.push({
      id: 'values',
      step: 'output',
      state: 'holds',
      message: `All ${page.card.length} values of the card are right.`,
    });
  layoutCheck(page, decoder, found);
  return { wrong, found };
}

/** What is wrong with a row, in words that follow its name; `typed`: what is typed is. */
function whatIsOff(
  row: PageRow,
  value: number | string,
  expected: ExpectedRow,
): { readonly typed: boolean; readonly words: readonly string[] } {
  const { value: should, unit, slack, metres } = expected;
  const words: string[] = [];
  const said = (v: number | string): string =>
    typeof v === 'number' ? `${formatNumber(v, row.digits)}${unit && ` ${unit}`}` : v;
  const fine =
    typeof value === 'number' && typeof should === 'number'
      ? Math.abs(value - should) <= slack + 1e-12 * Math.abs(should)
      : value === should;
  if (!fine) words.push(`is typed as ${said(value)}; it should be ${said(should)}`);
  if (row.unit !== unit) words.push(`stands in ${row.unit || 'no unit'}; it should stand in ${unit || 'no unit'}`);
  // what is typed is rounded from it; where that is wrong already it is told
  const exactly = typeof should === 'number' && row.exact !== null && Math.abs(row.exact - should);
  if (fine && typeof should === 'number' && exactly !== false && exactly > slack + 1e-9 * Math.abs(should))
    words.push(`is said to be exactly ${said(row.exact ?? should)}; it is ${said(should)}`);
  if (fine && row.metres !== undefined && !saysMetres(row, expected))
    words.push(
      `is ${row.metres === '' ? 'not said' : `said to be ${row.metres}`} in metres; it ${metres === null ? 'is no length' : `is ${formatNumber(metres, 6)} m`}`,
    );
  return { typed: !fine, words };
}

/** Whether the words in metres of a row agree with what they must say, to the last digit shown. */
function saysMetres({ id, metres: text = '' }: PageRow, { metres, metresSlack }: ExpectedRow): boolean {
  if (metres === null) return text === '';
  const [, spans, number] = /^(spans )?(−?\d[\d ]*(?:\.\d{1,6})?) m$/.exec(text) ?? [];
  if (number === undefined || (spans !== undefined) !== (id === 'heightScale')) return false;
  const said = Number(number.replace('−', '-').replace(/ /g, ''));
  return Math.abs(said - metres) <= metresSlack + 0.51e-6 + 1e-9 * Math.abs(metres);
}

/** What a wrong ground value does, in metres at the far edge of one file. */
function consequence(id: string, page: Page, decoder: TargetDecoder, grid: ExpectedGrid): string {
  const off = (shown: number, should: number): string =>
    `: the far edge lies ${formatLength(Math.abs(shown - should))} off`;
  const across = (n: number): number => (grid.cells ? n : n - 1);
  if (id === 'groundScaleX' || id === 'extentX' || id === 'metresPerSample')
    return off(decoder.extentX(grid.tileWidth), grid.spacingX * across(grid.tileWidth));
  if (id === 'groundScaleY' || id === 'extentY')
    return off(decoder.extentY(grid.tileHeight), grid.spacingY * across(grid.tileHeight));
  return '';
}

function layoutCheck(page: Page, decoder: TargetDecoder, found: ProofCheck[]): void {
  const file = page.files[0];
  const x = decoder.verticesX();
  const y = decoder.verticesY();
  if (!file || x === null || y === null) return;
  const fits = x === file.width && y === file.height;
  found.push({
    id: 'layout',
    step: 'split',
    state: fits ? 'holds' : 'fault',
    message: fits
      ? `The typed layout makes ${x} × ${y} vertices, as many as the file holds.`
      : `The typed layout makes ${x} × ${y} vertices; the file holds ${file.width} × ${file.height}.`,
  });
}
