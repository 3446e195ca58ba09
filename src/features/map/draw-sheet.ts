import { ticks } from 'd3-array';
import { formatNumber, formatShort, formatSigned } from '@/core/base';
import type { Plan } from '@/core/plan';
import type { MeshFacts, SourceExtremes } from '@/core/raster';
import type { WorstError } from '@/core/proof';
import { OVER_GROUND, type Palette } from '../palette';
import { toGroundX, toGroundY, toScreenX, toScreenY, type Inner, type Viewport } from './viewport';

export type Colours = Pick<Palette, 'ink' | 'quiet' | 'panel' | 'film' | 'rule' | 'kelp'>;

export const MONO = '11px "Spline Sans Mono", monospace';

/** Lines thinner than this apart are left out: they would only grey the map. */
const LEAST_GAP = 5;

export interface Overlays {
  readonly tiles: boolean;
  readonly components: boolean;
  readonly patches: boolean;
}

/** Tiles as double lines, components as single lines, patches as hairline dashes. */
export function drawGrid(
  ctx: CanvasRenderingContext2D,
  plan: Plan,
  overlays: Overlays,
  v: Viewport,
  inner: Inner,
): void {
  const { document, work } = plan;
  const { sourceStart: start, sourcePerVertex: per } = work.geometry;
  const sx = (vertex: number): number => toScreenX(v, inner, start.x + vertex * per.x);
  const sy = (vertex: number): number => toScreenY(v, inner, start.y + vertex * per.y);
  const right = document.fit.width - 1;
  const bottom = document.fit.height - 1;
  const lines = (every: number): void => {
    const gap = every * Math.min(per.x, per.y) * v.scale;
    if (gap < LEAST_GAP) return;
    ctx.beginPath();
    for (let i = 0; i <= right + 0.5; i += every) {
      const x = Math.round(sx(i)) + 0.5;
      if (x < inner.left || x > inner.left + inner.width) continue;
      ctx.moveTo(x, sy(0));
      ctx.lineTo(x, sy(bottom));
    }
    for (let j = 0; j <= bottom + 0.5; j += every) {
      const y = Math.round(sy(j)) + 0.5;
      if (y < inner.top || y > inner.top + inner.height) continue;
      ctx.moveTo(sx(0), y);
      ctx.lineTo(sx(right), y);
    }
    ctx.stroke();
  };
  ctx.strokeStyle = OVER_GROUND.dark;
  const layout = document.layout;
  const single = document.files.length === 1 || document.tiles.edges === 'shared';
  if (layout && single) {
    if (overlays.patches && layout.patches > 1) {
      ctx.globalAlpha = 0.55;
      ctx.lineWidth = 0.75;
      ctx.setLineDash([3, 3]);
      lines(layout.quads);
      ctx.setLineDash([]);
    }
    if (overlays.components) {
      ctx.globalAlpha = 0.5;
      ctx.lineWidth = 0.8;
      lines(layout.quads * layout.patches);
    }
  }
  ctx.globalAlpha = 1;
  if (overlays.tiles) {
    eachTile(plan, v, inner, (_file, x, y, width, height) => {
      ctx.strokeStyle = OVER_GROUND.dark;
      ctx.lineWidth = 3.5;
      ctx.strokeRect(x, y, width, height);
      ctx.strokeStyle = OVER_GROUND.light;
      ctx.lineWidth = 1.25;
      ctx.strokeRect(x, y, width, height);
    });
  }
}

/** The name of each tile in its north-west corner, as long as there is room for: whole, without ending, or its place. */
export function drawTileNames(ctx: CanvasRenderingContext2D, plan: Plan, v: Viewport, inner: Inner, c: Colours): void {
  ctx.font = MONO;
  eachTile(plan, v, inner, (file, x, y, width, height) => {
    const bare = file.name.replace(/\.[^.]*$/, '');
    const numbers = `${file.column}, ${file.row}`;
    const text = [file.name, bare, numbers].find((t) => ctx.measureText(t).width < width - 20);
    if (text !== undefined && height > 24) label(ctx, text, x + 6, y + 6, c, 'left');
  });
}

/** Where each of several tiles lies on the screen. */
function eachTile(
  plan: Plan,
  v: Viewport,
  inner: Inner,
  act: (file: Plan['document']['files'][number], x: number, y: number, width: number, height: number) => void,
): void {
  const { files } = plan.document;
  if (files.length === 1) return;
  const { sourceStart: start, sourcePerVertex: per } = plan.work.geometry;
  for (const file of files) {
    const { window: w } = file;
    const x = toScreenX(v, inner, start.x + w.x * per.x);
    const y = toScreenY(v, inner, start.y + w.y * per.y);
    act(file, x, y, (w.width - 1) * per.x * v.scale, (w.height - 1) * per.y * v.scale);
  }
}

/** Text on a small paper ground. */
export function label(
  ctx: CanvasRenderingContext2D,
  text: string,
  x: number,
  y: number,
  c: Colours,
  align: 'left' | 'right',
): void {
  ctx.font = MONO;
  const w = ctx.measureText(text).width;
  const left = align === 'left' ? x : x - w - 8;
  ctx.fillStyle = c.panel;
  ctx.globalAlpha = 0.9;
  ctx.fillRect(left, y, w + 8, 16);
  ctx.globalAlpha = 1;
  ctx.fillStyle = c.ink;
  ctx.textAlign = 'left';
  ctx.textBaseline = 'middle';
  ctx.fillText(text, left + 4, y + 8.5);
}

/** How a place is marked: triangles up and down for highest and lowest, open diamonds for others. */
function mark(ctx: CanvasRenderingContext2D, x: number, y: number, id: string, c: Colours, heavy: boolean): void {
  ctx.beginPath();
  if (id === 'highest') {
    ctx.moveTo(x, y - 6);
    ctx.lineTo(x + 6, y + 5);
    ctx.lineTo(x - 6, y + 5);
  } else if (id === 'lowest') {
    ctx.moveTo(x, y + 6);
    ctx.lineTo(x + 6, y - 5);
    ctx.lineTo(x - 6, y - 5);
  } else {
    ctx.moveTo(x, y - 5);
    ctx.lineTo(x + 5, y);
    ctx.lineTo(x, y + 5);
    ctx.lineTo(x - 5, y);
  }
  ctx.closePath();
  ctx.fillStyle = c.panel;
  ctx.strokeStyle = c.ink;
  ctx.lineWidth = heavy ? 2.5 : 1.4;
  ctx.fill();
  ctx.stroke();
}

/** A place with its mark, and its elevation beside it where that is given. */
function drawPlace(
  ctx: CanvasRenderingContext2D,
  { id, x, y, elevation }: { id: string; x: number; y: number; elevation: number | null },
  inner: Inner,
  c: Colours,
  heavy: boolean,
): void {
  if (x < inner.left - 1 || y < inner.top - 1 || x > inner.left + inner.width + 1 || y > inner.top + inner.height + 1)
    return;
  mark(ctx, x, y, id, c, heavy);
  if (elevation === null) return;
  const west = x > inner.left + inner.width - 90;
  const lift = Math.max(inner.top + 4, Math.min(inner.top + inner.height - 52, y - 8));
  label(ctx, formatNumber(elevation, 1), west ? x - 10 : x + 10, lift, c, west ? 'right' : 'left');
}

/** Highest, lowest and the other check spots. */
export function drawSpots(
  ctx: CanvasRenderingContext2D,
  plan: Plan,
  v: Viewport,
  inner: Inner,
  c: Colours,
  named: string | null,
): void {
  const { sourceStart: start, sourcePerVertex: per } = plan.work.geometry;
  for (const { id, x, y, elevation } of plan.document.spots) {
    const speaks = id === 'highest' || id === 'lowest' || named === id;
    const at = { x: toScreenX(v, inner, start.x + x * per.x), y: toScreenY(v, inner, start.y + y * per.y) };
    drawPlace(ctx, { id, ...at, elevation: speaks ? elevation : null }, inner, c, named === id);
  }
}

/** Highest and lowest sample of the source. */
export function drawExtremes(
  ctx: CanvasRenderingContext2D,
  { lowest, highest }: SourceExtremes,
  ends: { readonly low: number; readonly high: number },
  v: Viewport,
  inner: Inner,
  c: Colours,
): void {
  for (const [id, { column, row }, elevation] of [
    ['lowest', lowest, ends.low],
    ['highest', highest, ends.high],
  ] as const) {
    const at = { x: toScreenX(v, inner, column), y: toScreenY(v, inner, row) };
    drawPlace(ctx, { id, ...at, elevation }, inner, c, false);
  }
}

/** Samples under which there is more ground: barred aslant, in two tones that are seen on any ground. */
export function drawRoofs(ctx: CanvasRenderingContext2D, roofs: MeshFacts['roofs'], v: Viewport, inner: Inner): void {
  if (roofs.length === 0) return;
  ctx.save();
  ctx.beginPath();
  for (const [row, from, to] of roofs) {
    const left = toScreenX(v, inner, from - 0.5);
    const top = toScreenY(v, inner, row - 0.5);
    // never thinner than a pixel, however far the map is
    const wide = Math.max(1, (to - from + 1) * v.scale);
    ctx.rect(left, top, wide, Math.max(1, v.scale));
  }
  ctx.clip();
  const reach = inner.width + inner.height;
  for (const [colour, shift] of [
    [OVER_GROUND.light, 0],
    [OVER_GROUND.dark, 2],
  ] as const) {
    ctx.strokeStyle = colour;
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    for (let x = shift; x < reach; x += 6) {
      ctx.moveTo(inner.left + x, inner.top);
      ctx.lineTo(inner.left + x - inner.height, inner.top + inner.height);
    }
    ctx.stroke();
  }
  ctx.restore();
}

/** Known spots of the source: a ring with a number. */
export function drawKnownSpots(
  ctx: CanvasRenderingContext2D,
  spots: readonly { readonly column: number; readonly row: number }[],
  v: Viewport,
  inner: Inner,
  c: Colours,
): void {
  spots.forEach(({ column, row }, i) => {
    const x = toScreenX(v, inner, column);
    const y = toScreenY(v, inner, row);
    ctx.beginPath();
    ctx.arc(x, y, 8, 0, 2 * Math.PI);
    ctx.fillStyle = c.panel;
    ctx.fill();
    ctx.lineWidth = 1.6;
    ctx.strokeStyle = c.ink;
    ctx.stroke();
    ctx.font = MONO;
    ctx.fillStyle = c.ink;
    ctx.textAlign = 'center';
    ctx.textBaseline = 'middle';
    ctx.fillText(String(i + 1), x, y + 0.5);
  });
}

/** The largest error: a ring around the place, with its number. */
export function drawWorst(
  ctx: CanvasRenderingContext2D,
  plan: Plan,
  { x: column, y: row, error }: WorstError,
  v: Viewport,
  inner: Inner,
  c: Colours,
): void {
  if (error === 0) return;
  const { sourceStart: start, sourcePerVertex: per } = plan.work.geometry;
  const x = toScreenX(v, inner, start.x + column * per.x);
  const y = toScreenY(v, inner, start.y + row * per.y);
  for (const [width, colour] of [
    [4.5, c.panel],
    [2, c.ink],
  ] as const) {
    ctx.beginPath();
    ctx.arc(x, y, 9, 0, 2 * Math.PI);
    ctx.lineWidth = width;
    ctx.strokeStyle = colour;
    ctx.stroke();
  }
  const west = x > inner.left + inner.width - 130;
  const lift = Math.max(inner.top + 4, Math.min(inner.top + inner.height - 52, y - 8));
  label(ctx, `largest ${formatSigned(error)}`, west ? x - 14 : x + 14, lift, c, west ? 'right' : 'left');
}

/** The collar: metres along the top and the left, vertices along the bottom and the right. */
export function drawCollar(
  ctx: CanvasRenderingContext2D,
  plan: Plan,
  metres: number,
  v: Viewport,
  inner: Inner,
  size: { width: number; height: number },
  c: Colours,
): void {
  const { sourceStart: start, sourcePerVertex: per } = plan.work.geometry;
  ctx.fillStyle = c.panel;
  ctx.fillRect(0, 0, size.width, inner.top);
  ctx.fillRect(0, 0, inner.left, size.height);
  ctx.fillRect(inner.left + inner.width, 0, size.width, size.height);
  ctx.fillRect(0, inner.top + inner.height, size.width, size.height);
  ctx.strokeStyle = c.ink;
  ctx.lineWidth = 1;
  ctx.strokeRect(inner.left - 0.5, inner.top - 0.5, inner.width + 1, inner.height + 1);
  ctx.strokeRect(3.5, 3.5, size.width - 7, size.height - 7);
  ctx.font = MONO;
  ctx.fillStyle = c.ink;
  ctx.beginPath();
  const right = inner.left + inner.width;
  const bottom = inner.top + inner.height;
  // positions count from the result's north-west vertex, eastward and southward
  const mx = (px: number): number => (toGroundX(v, inner, px) - start.x) * metres;
  const my = (py: number): number => (toGroundY(v, inner, py) - start.y) * metres;
  // as short as the space beside the map: kilometres where metres take five figures
  const far = Math.max(...[mx(inner.left), mx(right), my(inner.top), my(bottom)].map(Math.abs)) >= 10000;
  const place = (t: number): string => (far ? formatShort(t / 1000, 2) : formatShort(t, 1));
  for (const t of ticks(mx(inner.left), mx(right), inner.width / 110)) {
    const x = Math.round(toScreenX(v, inner, start.x + t / metres)) + 0.5;
    ctx.moveTo(x, inner.top);
    ctx.lineTo(x, inner.top - 6);
    ctx.textAlign = 'left';
    ctx.textBaseline = 'middle';
    if (x < right - 44) ctx.fillText(`${place(t)} ${far ? 'km' : 'm'}`, x + 4, inner.top - 9);
  }
  for (const t of ticks(my(inner.top), my(bottom), inner.height / 90)) {
    const y = Math.round(toScreenY(v, inner, start.y + t / metres)) + 0.5;
    ctx.moveTo(inner.left, y);
    ctx.lineTo(inner.left - 6, y);
    ctx.textAlign = 'right';
    ctx.textBaseline = 'middle';
    if (y > inner.top + 8 && y < bottom - 6) ctx.fillText(place(t), inner.left - 8, y);
  }
  const vx = (px: number): number => (toGroundX(v, inner, px) - start.x) / per.x;
  const vy = (py: number): number => (toGroundY(v, inner, py) - start.y) / per.y;
  for (const t of ticks(vx(inner.left), vx(right), inner.width / 110)) {
    if (t < 0 || t > plan.document.fit.width - 1 || !Number.isInteger(t)) continue;
    const x = Math.round(toScreenX(v, inner, start.x + t * per.x)) + 0.5;
    ctx.moveTo(x, bottom);
    ctx.lineTo(x, bottom + 6);
    ctx.textAlign = 'left';
    ctx.textBaseline = 'middle';
    if (x < right - 40) ctx.fillText(`v ${t}`, x + 4, bottom + 10);
  }
  for (const t of ticks(vy(inner.top), vy(bottom), inner.height / 90)) {
    if (t < 0 || t > plan.document.fit.height - 1) continue;
    const y = Math.round(toScreenY(v, inner, start.y + t * per.y)) + 0.5;
    ctx.moveTo(right, y);
    ctx.lineTo(right + 6, y);
  }
  ctx.stroke();
}

/** Scale bar and north mark. */
export function drawFurniture(
  ctx: CanvasRenderingContext2D,
  metres: number,
  /** The way that north lies, one step of it. */
  north: { readonly x: number; readonly y: number },
  v: Viewport,
  inner: Inner,
  c: Colours,
): void {
  const perPixel = metres / v.scale;
  // the longest round length that takes at most 130 pixels
  const power = 10 ** Math.floor(Math.log10(perPixel * 130));
  const nice = [5, 2, 1].map((m) => m * power).find((l) => l <= perPixel * 130) ?? power;
  const w = nice / perPixel;
  const x = inner.left + 10;
  const y = inner.top + inner.height - 30;
  ctx.globalAlpha = 0.9;
  ctx.fillStyle = c.panel;
  ctx.fillRect(x - 4, y - 4, w + 70, 24);
  ctx.globalAlpha = 1;
  ctx.fillStyle = c.ink;
  ctx.fillRect(x, y + 6, w / 2, 5);
  ctx.strokeStyle = c.ink;
  ctx.lineWidth = 1;
  ctx.strokeRect(x + 0.5, y + 6.5, w - 1, 4);
  ctx.font = MONO;
  ctx.textAlign = 'left';
  ctx.textBaseline = 'middle';
  ctx.fillText(nice >= 1000 ? `${formatShort(nice / 1000)} km` : `${formatShort(nice, 2)} m`, x + w + 6, y + 9);
  const nx = inner.left + inner.width - 24;
  const ny = inner.top + 24;
  ctx.globalAlpha = 0.9;
  ctx.fillStyle = c.panel;
  ctx.fillRect(nx - 17, ny - 17, 34, 34);
  ctx.globalAlpha = 1;
  ctx.fillStyle = c.ink;
  // drawn with north up, and laid as the ground is
  const at = (along: number, aside: number): [number, number] => [
    nx + along * north.x - aside * north.y,
    ny + along * north.y + aside * north.x,
  ];
  ctx.beginPath();
  ctx.moveTo(...at(14, 0));
  ctx.lineTo(...at(1, 5));
  ctx.lineTo(...at(4, 0));
  ctx.lineTo(...at(1, -5));
  ctx.closePath();
  ctx.fill();
  ctx.textAlign = 'center';
  ctx.fillText('N', ...at(-8, 0));
}
