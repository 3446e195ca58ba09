import type { Recipe } from '../../recipe';
import type { ExpectedHeights } from './heights';
import { expectedLayout, type ExpectedGrid } from './layout';
import type { Page } from './page';
import { numbersOf, type ReadPage } from './printed';
import { storedBy } from './stored';

/** What the sentences of a page must say, worked out from recipe and source. */
export interface Told {
  readonly recipe: Recipe;
  readonly grid: ExpectedGrid;
  readonly heights: ExpectedHeights;
  /** As import.json has it, which is judged by itself. */
  readonly map: Page['map'];
  /** As it lies. */
  readonly source: { readonly width: number; readonly height: number; readonly bitDepth: number };
}

/** Numbers agree to the last digit that is printed. */
const agrees = (printed: number | undefined, value: number, digits: number): boolean =>
  printed !== undefined && Math.abs(printed - value) <= 0.5 * 10 ** -digits * (1 + 1e-6) + 1e-9 * Math.abs(value);

/** Decimals that are shown of a number. */
const digitsOf = (text: string): number => /\.(\d+)\s*$/.exec(text)?.[1]?.length ?? 0;

/** The sentences of a printed page that say how files are read and where the ground lies; what is wrong with them. */
export function checkSentences({ paragraphs, items }: ReadPage, told: Told): string[] {
  const wrong: string[] = [];
  const { recipe, grid, heights, source } = told;
  const text = paragraphs.map((p) => p.text).join('\n');
  const list = items.map((i) => i.text);
  const after = (start: string): string | null => list.find((t) => t.startsWith(start))?.slice(start.length) ?? null;
  const once = (what: string, found: string | null | undefined, should: string | null): void => {
    if ((found ?? null) !== should)
      wrong.push(`of ${what} it says ${found ? `“${found}”` : 'nothing'}, not ${should ? `“${should}”` : 'nothing'}`);
  };
  const { format, rows, byteOrder } = recipe.output;
  once(
    'the order of rows',
    /The first row of a file is the \w+\./.exec(text)?.[0],
    `The first row of a file is the ${format === 'raw' && rows === 'south' ? 'southernmost' : 'northernmost'}.`,
  );
  once(
    'the order of bytes',
    /Bytes are \S+\./.exec(text)?.[0],
    format === 'raw' && storedBy(recipe).bits > 8
      ? `Bytes are ${byteOrder === 'big' ? 'big' : 'little'}-endian.`
      : null,
  );
  once(
    'north',
    /North is [^;]*; no file is [^.]*mirrored\./.exec(text)?.[0],
    grid.halfTurn
      ? 'North is down: the target turns each file by half a turn, so its first column is the easternmost; no file is mirrored.'
      : 'North is up: the first column is the westernmost; no file is turned or mirrored.',
  );
  const zero = after('At world zero lies the elevation ');
  if (!agrees(numbersOf(zero?.replace(/ m$/, '') ?? '')?.[0], heights.zero, 3))
    wrong.push(`it has ${zero ?? 'nothing'} at world zero, not ${heights.zero.toFixed(3)} m`);
  const scaled = (what: string, start: string, factor: number, rest: string): void => {
    const said = after(start);
    if (factor === 1) once(what, said, null);
    else {
      const number = said?.endsWith(rest) ? said.slice(0, said.length - rest.length) : '';
      if (!agrees(numbersOf(number)?.[0], factor, Math.min(6, digitsOf(number) || 6)))
        wrong.push(`${what} is ${said ?? 'nothing'}, not ${factor}`);
    }
  };
  scaled(
    'the exaggeration',
    'Exaggeration: heights multiplied by ',
    recipe.height.exaggeration,
    ', the ground across unchanged',
  );
  scaled('the miniature', 'Miniature: ground and heights multiplied by ', recipe.fit.worldScale, '');
  const layout = expectedLayout(recipe, grid);
  once(
    'the layout',
    after(grid.tiles.length > 1 ? 'Layout of each tile: ' : 'Layout: '),
    layout &&
      `${layout.componentsX} × ${layout.componentsY} components, each ${layout.patches} × ${layout.patches} ${layout.patches > 1 ? 'patches' : 'patch'} of ${layout.quads} quads`,
  );
  const placed = mapSentence(
    list.find((t) => t.startsWith('On the map')),
    told,
  );
  if (placed) wrong.push(placed);
  const of = /, (\d+) × (\d+) samples of (\d+) bits$/.exec(after('Source: ') ?? '');
  if (Number(of?.[1]) !== source.width || Number(of?.[2]) !== source.height || Number(of?.[3]) !== source.bitDepth)
    wrong.push(`it speaks of a source of ${of?.[1] ?? 'no'} × ${of?.[2] ?? 'no'} samples of ${of?.[3] ?? 'no'} bits`);
  const assumed = recipe.source.assumed ?? [];
  once(
    'placeholders',
    paragraphs.find((p) => p.strong && p.text.startsWith('Placeholders: '))?.text,
    assumed.length === 0
      ? null
      : `Placeholders: nobody has said the ${assumed.join(', ')} of the source. Values marked "placeholder" rest on them.`,
  );
  return wrong;
}

/** Files that have no word for it, or none for this place. */
const CANT_SAY: Readonly<Record<string, string>> = {
  png: 'a PNG',
  raw: 'a RAW',
  exr: 'an EXR',
  asc: 'an ASCII grid that is turned',
};

/** What is wrong with the sentence on the place on the map: first and last sample of the whole, and whether files say it. */
function mapSentence(said: string | undefined, { recipe, grid, map }: Told): string | null {
  if (!map) return said === undefined ? null : `it gives a place on the map, and import.json none`;
  const parts =
    /^On the map(?: \((.*)\))?(, in degrees)?: the first sample of the whole at (.+) east, (.+) north, the last at (.+) east, (.+) north; (.+)$/.exec(
      said ?? '',
    );
  if (!parts) return 'it does not give the place on the map';
  const [, crs, degrees, ...rest] = parts;
  const format = recipe.output.format;
  const upright = map.across[0] > 0 && map.across[1] === 0 && map.down[0] === 0;
  const written =
    format === 'tiff' || (format === 'asc' && upright && map.down[1] < 0)
      ? 'the files say so themselves'
      : `${CANT_SAY[format] ?? format} can’t say so`;
  if ((crs ?? null) !== map.crs || (degrees !== undefined) !== map.degrees || rest[4] !== written)
    return 'it tells the place on the map otherwise than import.json and the files';
  const at = (x: number, y: number, k: 0 | 1): number => map.origin[k] + x * map.across[k] + y * map.down[k];
  const [right, bottom] = [grid.width - 1, grid.height - 1];
  const should = [at(0, 0, 0), at(0, 0, 1), at(right, bottom, 0), at(right, bottom, 1)];
  const wrong = should.some((value, i) => !agrees(numbersOf(rest[i] ?? '')?.[0], value, map.degrees ? 9 : 4));
  return wrong ? `it has the place on the map at ${rest.slice(0, 4).join(', ')}, not ${should.join(', ')}` : null;
}
