import type { ByteSource } from '../../base';
import type { Step } from '../../recipe';
import type { ProofCheck } from '../types';
import { placeAmong, type ExpectedGrid } from './layout';
import type { Page } from './page';
import type { TwinStage } from './operations';

/*
 * Where the ground lies on its map, worked out a second time: sample by sample through the steps, and read from the files
 * that say it in a way of its own.
 */

type Pair = readonly [east: number, north: number];

/** Coordinates of a sample, by column and row; of places between samples too. */
export type OnMap = (column: number, row: number) => Pair;

/**
 * Of the samples of a stage; null where nothing is stated of its ground. Coordinates follow what cuts, adds and reprojects;
 * what moves ground by an angle or bends it leaves none. How it was laid comes on top of that.
 */
export function onMapOf(stage: TwinStage, steps: readonly Step[]): OnMap | null {
  const ground = stage.laid?.files ?? stage;
  const { georeference: g } = ground;
  if (!g) return null;
  let onMap: OnMap = (column, row) => [g.x + g.dx * column, g.y - g.dy * row];
  let { width, height } = ground;
  for (const step of steps) {
    if (step.off) continue;
    const [before, right, bottom] = [onMap, width - 1, height - 1];
    if (step.op === 'mirror')
      onMap = step.axis === 'x' ? (c, r) => before(right - c, r) : (c, r) => before(c, bottom - r);
    else if (step.op === 'turn' && step.quarters === 2) onMap = (c, r) => before(right - c, bottom - r);
    else if (step.op === 'turn' || step.op === 'swap-axes') {
      if (step.op === 'swap-axes') onMap = (c, r) => before(r, c);
      else onMap = step.quarters === 1 ? (c, r) => before(r, bottom - c) : (c, r) => before(right - r, c);
      [width, height] = [height, width];
    }
  }
  return onMap;
}

/** Six numbers: the coordinates of the first sample, and the ways to the next one along a row and down. */
type Six = readonly [number, number, number, number, number, number];

const sixOf = ({ origin, across, down }: NonNullable<Page['map']>): Six => [...origin, ...across, ...down];

/** Those of the whole. */
export function expectedOnMap(onMap: OnMap, grid: ExpectedGrid, source: { width: number; height: number }): Six {
  const column = (x: number): number =>
    grid.stretched ? placeAmong(x, source.width, grid.width, grid.lies) : grid.startX + x;
  const row = (y: number): number =>
    grid.stretched ? placeAmong(y, source.height, grid.height, grid.lies) : grid.startY + y;
  const [east, north] = onMap(column(0), row(0));
  const [ax, ay] = onMap(column(1), row(0));
  const [bx, by] = onMap(column(0), row(1));
  return [east, north, ax - east, ay - north, bx - east, by - north];
}

/** Coordinates agree to a thousandth of the way from sample to sample, at the far corner too. */
function agree(a: Six, b: Six, width: number, height: number): boolean {
  const step = Math.hypot(b[2], b[3]) + Math.hypot(b[4], b[5]);
  return [0, 1].every((k) => {
    const apart = (u: number, v: number): number =>
      Math.abs(a[k]! - b[k]! + u * (a[2 + k]! - b[2 + k]!) + v * (a[4 + k]! - b[4 + k]!));
    return [0, width - 1].every((u) => [0, height - 1].every((v) => apart(u, v) <= step / 1000));
  });
}

const said = (six: Six): string => `${six[0]}, ${six[1]}`;

/** What page and files say of the place on the map, and how TIFFs are packed. `expected`: from the source; null where it states none; undefined where there is none. */
export async function checkOnMap(
  page: Page,
  grid: ExpectedGrid,
  files: readonly ByteSource[],
  packed: boolean,
  expected: Six | null | undefined,
): Promise<ProofCheck[]> {
  const wrong: string[] = [];
  const { map } = page;
  const judged = expected !== undefined;
  if (judged && expected === null && map) wrong.push('the page gives a place on the map, and the source none');
  if (judged && expected !== null && !map) wrong.push('the page gives no place on the map');
  if (judged && expected && map && !agree(sixOf(map), expected, grid.width, grid.height))
    wrong.push(`the page has the first sample at ${said(sixOf(map))}; it lies at ${said(expected)}`);
  let says = 0;
  for (const [i, file] of page.files.entries()) {
    const source = files[i];
    const read = READS[file.format];
    if (!source || !read) continue;
    const { place: found, packed: isPacked } = await read(source);
    if (isPacked !== packed) wrong.push(`${file.name} is packed in another way than the recipe says`);
    const whole = map && (file.format !== 'asc' || isUpright(sixOf(map))) ? sixOf(map) : null;
    const own = whole ? ofFile(whole, file.window) : file.format === 'asc' ? ofFile(inWorld(grid), file.window) : null;
    if (whole) says++;
    if (found === undefined || (!own && !found)) continue;
    if (!found) wrong.push(`${file.name} does not say where it lies`);
    else if (!own) wrong.push(`${file.name} says where it lies, and the page does not`);
    else if (!agree(found, own, file.width, file.height))
      wrong.push(`${file.name} has its first sample at ${said(found)}; it lies at ${said(own)}`);
  }
  if (wrong.length > 0)
    return [{ id: 'on-map', step: 'output', state: 'fault', message: `${wrong.slice(0, 4).join('; ')}.` }];
  if (!map) return [];
  const where = judged ? 'worked out from the coordinates of the source' : 'as the page says; there is no source';
  const inFiles = says === 0 ? 'the files can’t say it' : says === 1 ? 'the file says so' : 'each file says so';
  return [
    {
      id: 'on-map',
      step: 'output',
      state: 'holds',
      message: `The place on the map is right (${where}), and ${inFiles}.`,
    },
  ];
}

/** Rows run from west to east, the first in the north. */
const isUpright = ([, , ax, ay, bx, by]: Six): boolean => ax > 0 && ay === 0 && bx === 0 && by < 0;

/** Of a file of the whole, by its window. */
const ofFile = ([east, north, ax, ay, bx, by]: Six, { x, y }: { readonly x: number; readonly y: number }): Six => [
  east + x * ax + y * bx,
  north + x * ay + y * by,
  ax,
  ay,
  bx,
  by,
];

/** Of files that must say some place: metres from the south-western sample of the whole. */
const inWorld = ({ height, spacingX, spacingY }: ExpectedGrid): Six => [
  0,
  (height - 1) * spacingY,
  spacingX,
  0,
  0,
  -spacingY,
];

/** What a file says of itself: undefined where its format has no word for the place. */
interface SaidByFile {
  readonly place: Six | null | undefined;
  readonly packed: boolean;
}

const READS: Readonly<Record<string, (source: ByteSource) => Promise<SaidByFile>>> = {
  tiff: saidByTiff,
  exr: saidByExr,
  asc: saidByAscii,
};

const viewOf = async (source: ByteSource, at: number, length: number): Promise<DataView> => {
  const bytes = await source.read(at, length);
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
};

/** Of a TIFF, low byte first, by its tags. */
async function saidByTiff(source: ByteSource): Promise<SaidByFile> {
  const directory = (await viewOf(source, 4, 4)).getUint32(0, true);
  const count = (await viewOf(source, directory, 2)).getUint16(0, true);
  const entries = await viewOf(source, directory + 2, 12 * count);
  const at = (tag: number): number | undefined =>
    Array.from({ length: count }, (_, i) => 12 * i).find((e) => entries.getUint16(e, true) === tag);
  const doubles = async (tag: number): Promise<number[] | null> => {
    const entry = at(tag);
    if (entry === undefined) return null;
    const n = entries.getUint32(entry + 4, true);
    const values = await viewOf(source, entries.getUint32(entry + 8, true), 8 * n);
    return Array.from({ length: n }, (_, k) => values.getFloat64(8 * k, true));
  };
  const packing = at(259);
  const packed = packing !== undefined && entries.getUint16(packing + 8, true) !== 1;
  const matrix = await doubles(34264);
  if (matrix) {
    const [a = 0, b = 0, , e = 0, c = 0, d = 0, , n = 0] = matrix;
    return { place: [e, n, a, c, b, d], packed };
  }
  const scale = await doubles(33550);
  const tie = await doubles(33922);
  if (!scale || !tie) return { place: null, packed };
  const [sx = 0, sy = 0] = scale;
  const [column = 0, row = 0, , east = 0, north = 0] = tie;
  return { place: [east - column * sx, north + row * sy, sx, 0, 0, -sy], packed };
}

/** Bytes in which the head of a text or an EXR ends. */
const HEAD = 1024;
const headText = async (source: ByteSource): Promise<string> =>
  String.fromCharCode(...(await source.read(0, Math.min(HEAD, source.size))));

/** Of an EXR, by the attribute that says how it is packed. */
async function saidByExr(source: ByteSource): Promise<SaidByFile> {
  const mark = 'compression\0compression\0\x01\0\0\0';
  const head = await headText(source);
  const value = head.charCodeAt(head.indexOf(mark) + mark.length);
  return { place: undefined, packed: value !== 0 };
}

/** Of an ASCII grid, by the lines of its head. */
async function saidByAscii(source: ByteSource): Promise<SaidByFile> {
  const head = await headText(source);
  const line = (key: string): number => Number(new RegExp(`^${key} (\\S+)$`, 'm').exec(head)?.[1] ?? NaN);
  const cell = line('cellsize');
  const [dx, dy] = cell === cell ? [cell, cell] : [line('dx'), line('dy')];
  return { place: [line('xllcenter'), line('yllcenter') + (line('nrows') - 1) * dy, dx, 0, 0, -dy], packed: false };
}
