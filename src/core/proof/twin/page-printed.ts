import type { ProofCheck } from '../types';
import type { Page, PageRow } from './page';
import { checkSentences, type Told } from './page-sentences';
import { numbersOf, readPrintedHtml, readPrintedMarkdown, type ReadPage } from './printed';

/** A value as a person types it from the page. */
export const asTyped = ({ value, digits }: Pick<PageRow, 'value' | 'digits'>): string =>
  typeof value === 'number' ? value.toFixed(digits) : value;

type Rows = readonly (readonly string[])[];

/** The printed pages of a pack; null where one is missing. */
export interface PrintedPages {
  readonly markdown: string | null;
  /** Packs of earlier versions have none. */
  readonly html: string | null;
}

/** The same as a person reads them. */
export interface ReadPages {
  readonly markdown: ReadPage | null;
  readonly html: ReadPage | null;
}

export const readPages = async ({ markdown, html }: PrintedPages): Promise<ReadPages> => ({
  markdown: markdown === null ? null : await readPrintedMarkdown(markdown),
  html: html === null ? null : await readPrintedHtml(html),
});

/**
 * The printed pages, read back: every value, spot, place and file on them must say what import.json says, which is
 * proved on its own, and their sentences what recipe and source say. What is typed is typed from here. `told`: null where
 * sentences are others, and can't be judged; `both`: packs of earlier versions have no page in HTML.
 */
export function checkPrinted(
  page: Page,
  { markdown, html }: ReadPages,
  told: Told | null,
  both: boolean,
): ProofCheck[] {
  const missing = (name: string): ProofCheck => ({
    id: 'page',
    step: 'output',
    state: 'fault',
    message: `The import page (${name}) is missing or can’t be read.`,
  });
  if (markdown === null) return [missing('import.md')];
  if (html === null && both) return [missing('import.html')];
  const checks = [contradictions(page, 'import.md', markdown, told)];
  if (html !== null) checks.push(contradictions(page, 'import.html', html, told));
  const wrong = checks.filter((c) => c !== null);
  if (wrong.length > 0) return wrong;
  const which = html === null ? 'The import page says' : 'Both import pages, import.md and import.html, say';
  return [
    {
      id: 'page',
      step: 'output',
      state: 'holds',
      message: `${which} the same as import.json, value for value${told ? ' and sentence for sentence' : ''}.`,
    },
  ];
}

/** What the pages tell of a proof, line by line; nothing where they tell that there was none. */
export function toldOnPages({ markdown, html }: ReadPages): { file: string; told: string[] }[] {
  const told = ({ items }: ReadPage): string[] => {
    const lines = items.filter((i) => i.under === 'Proof').map((i) => i.text);
    return lines.length === 1 && lines[0] === 'Not proved when this page was written.' ? [] : lines;
  };
  return [
    ...(markdown ? [{ file: 'import.md', told: told(markdown) }] : []),
    ...(html ? [{ file: 'import.html', told: told(html) }] : []),
  ];
}

function contradictions(page: Page, file: string, read: ReadPage, told: Told | null): ProofCheck | null {
  const { tables } = read;
  const wrong = [
    ...checkHead(page, read),
    ...(told ? checkSentences(read, told) : []),
    ...checkValues(page, tables.get('Values to type') ?? []),
    ...checkSpots(page, tables.get('Check spots') ?? []),
    ...(page.placement.length > 1 ? checkPlacement(page, tables.get('Placement') ?? []) : []),
    ...checkFiles(page, tables.get('Files') ?? [], told ? told.recipe.output.compression === 'deflate' : null),
  ];
  if (wrong.length === 0) return null;
  const shown = wrong.slice(0, 4).join('; ');
  const more = wrong.length > 4 ? `; and ${wrong.length - 4} more` : '';
  return { id: 'page', step: 'output', state: 'fault', message: `${file} contradicts import.json: ${shown}${more}.` };
}

/** Printed numbers agree to the last digit that is printed. */
const agrees = (printed: number | undefined, value: number, digits: number): boolean =>
  printed !== undefined && Math.abs(printed - value) <= 0.5 * 10 ** -digits * (1 + 1e-6) + 1e-9 * Math.abs(value);

/** A code as it stands, or a float of 32 bits in fewer digits. */
const isStored = (text: string, stored: number | null): boolean =>
  stored === null || Number.isInteger(stored)
    ? text === (stored === null ? '' : String(stored))
    : /^-?\d+(\.\d+)?(e-\d+)?$/.test(text) && Math.fround(Number(text)) === stored;

/** Rows of a card that say which elevations are stored as the lowest and the highest. */
const ENDS = ['highestElevation', 'heightRange', 'topOfRange'];

function checkHead(page: Page, { items, paragraphs }: ReadPage): string[] {
  const out: string[] = [];
  const matched = (pattern: RegExp): RegExpExecArray | null =>
    items.map((i) => pattern.exec(i.text)).find((m) => m !== null) ?? null;
  const called = page.fit.registration === 'cell' ? 'cells' : 'vertices';
  const ground = matched(new RegExp(`^Ground: (\\d+) × (\\d+) ${called}, ([\\d\\s.]+?)(?: × ([\\d\\s.]+))? m apart`));
  if (Number(ground?.[1]) !== page.fit.width || Number(ground?.[2]) !== page.fit.height)
    out.push(`it speaks of ${ground ? `${ground[1] ?? ''} × ${ground[2] ?? ''}` : 'no'} ${called}`);
  else if (
    !agrees(numbersOf(ground?.[3] ?? '')?.[0], page.fit.spacing.x, 6) ||
    (ground?.[4] !== undefined && !agrees(numbersOf(ground[4])?.[0], page.fit.spacing.y, 6))
  )
    out.push('its spacing is another one');
  const heights = matched(/^Heights: (?:lowest code|0 stands for) ([−\d\s.]+) m, (?:highest code|1 for) ([−\d\s.]+) m/);
  const ends = [page.height.low, page.height.high];
  // files of metres have no ends, and a card that names none
  const metres = page.files.every((f) => f.sampleType === 'float') && !page.card.some((r) => ENDS.includes(r.id));
  if (metres) {
    if (!matched(/^Heights: in metres, as they are/)) out.push('it does not say that heights are stored in metres');
  } else if (ends.some((end, i) => !agrees(numbersOf(heights?.[i + 1] ?? '')?.[0], end, 3)))
    out.push('the elevations of its lowest and highest code are others');
  const draft = paragraphs.some((p) => p.strong && p.text.startsWith('A draft, '));
  if (draft !== (page.draft !== null))
    out.push(draft ? 'it calls itself a draft' : 'it does not say that it is a draft');
  return out;
}

const saidAs = (text: string | undefined): string => (text ? `is “${text}”` : 'is left empty');

function checkValues(page: Page, rows: Rows): string[] {
  const out: string[] = [];
  if (rows.length !== page.card.length) out.push(`it has ${rows.length} of ${page.card.length} values`);
  for (const [i, row] of page.card.entries()) {
    const [label, typed, unit, ...more] = rows[i] ?? [];
    // packs of earlier versions have no such column
    const metres = more.length > 2 ? more[0] : undefined;
    if (label === undefined) out.push(`${row.label} is missing`);
    else if (label !== row.label) out.push(`"${label}" stands where ${row.label} should`);
    else if (typed !== asTyped(row)) out.push(`${row.label} is ${typed ?? 'nothing'}, not ${asTyped(row)}`);
    else if (unit !== row.unit) out.push(`the unit of ${row.label} is ${unit ?? 'nothing'}, not ${row.unit}`);
    else if (metres !== row.metres) out.push(`in metres ${row.label} ${saidAs(metres)}, not ${saidAs(row.metres)}`);
  }
  return out;
}

function checkSpots(page: Page, rows: Rows): string[] {
  const out: string[] = [];
  if (rows.length !== page.spots.length) out.push(`it has ${rows.length} of ${page.spots.length} check spots`);
  for (const [i, spot] of page.spots.entries()) {
    const row = rows[i];
    if (!row) continue;
    const [label, vertex = '', position = '', height = '', elevation = '', code = '', file] = row;
    const at = numbersOf(vertex);
    const place = numbersOf(position);
    const printed = (cell: string, value: number | null, digits: number): boolean =>
      value === null ? cell === 'void' : agrees(numbersOf(cell)?.[0], value, digits);
    if (label !== spot.label) out.push(`"${label ?? ''}" stands where the spot ${spot.label} should`);
    else if (at?.[0] !== spot.x || at[1] !== spot.y) out.push(`${spot.label} is at another vertex`);
    else if (!agrees(place?.[0], spot.east, 2) || !agrees(place?.[1], spot.north, 2))
      out.push(`${spot.label} lies elsewhere`);
    else if (!printed(height, spot.height, 2) || !printed(elevation, spot.elevation, 3))
      out.push(`${spot.label} has another height`);
    else if (!isStored(code, spot.code)) out.push(`${spot.label} has another code`);
    else if (file !== spot.file) out.push(`${spot.label} is in another file`);
  }
  return out;
}

function checkPlacement(page: Page, rows: Rows): string[] {
  const out: string[] = [];
  if (rows.length !== page.placement.length) out.push(`it places ${rows.length} of ${page.placement.length} tiles`);
  for (const [i, p] of page.placement.entries()) {
    const row = rows[i];
    if (!row) continue;
    const [order, file, column, line, , position = '', components = '', neighbours] = row;
    const place = numbersOf(position);
    const wanted = p.componentsEast === null ? '' : `${p.componentsEast}, ${p.componentsSouth ?? 0}`;
    if (
      order !== String(p.order) ||
      file !== p.file ||
      column !== String(p.column) ||
      line !== String(p.row) ||
      components !== wanted ||
      neighbours !== p.neighbours.join(', ') ||
      !agrees(place?.[0], p.east, 2) ||
      !agrees(place?.[1], p.north, 2)
    )
      out.push(`row ${i + 1} of the placement is not that of ${p.file}`);
  }
  return out;
}

/** `packed`: how a TIFF must be said to be; null where that is not judged. */
function checkFiles(page: Page, rows: Rows, packed: boolean | null): string[] {
  const out: string[] = [];
  if (rows.length !== page.files.length) out.push(`it lists ${rows.length} of ${page.files.length} files`);
  for (const [i, f] of page.files.entries()) {
    const [name, size, holds = '', sum] = rows[i] ?? [];
    if (name !== f.name) out.push(`"${name ?? 'nothing'}" stands where ${f.name} should`);
    else if (size !== `${f.width} × ${f.height}`) out.push(`${f.name} has another size`);
    else if (!holds.includes(f.format.toUpperCase())) out.push(`${f.name} is called another kind of file`);
    else if (
      f.format === 'raw' &&
      !holds.includes(
        f.byteOrder === null ? `bits, rows from the ${f.rows}` : `${f.byteOrder}-endian, rows from the ${f.rows}`,
      )
    )
      out.push(`${f.name} is read in another way`);
    else if (
      (f.format === 'tiff' || f.format === 'exr') &&
      packed !== null &&
      holds.endsWith('packed without loss') !== packed
    )
      out.push(`${f.name} is said to be packed otherwise`);
    else if (!holds.includes(`${f.bitDepth}${f.sampleType === 'float' ? '-bit floats' : ' bits'}`))
      out.push(`${f.name} is said to be of another depth`);
    else if ((sum ?? '') !== (f.sha256 ?? '')) out.push(`${f.name} has another checksum`);
  }
  return out;
}
