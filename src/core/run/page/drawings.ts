import { formatLength } from '../../base';
import type { PlanDocument } from '../../plan';
import { escaped } from './html';

const INK = '#18242a';
const HALO = 'paint-order="stroke" stroke="#f6f8f4" stroke-width="4" stroke-linejoin="round"';

const SIGNS = new TextEncoder().encode('ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/=');
const NONE = 64;

/** Bytes as text for a data address; written here since the core knows neither `btoa` nor `Buffer`. */
function base64(bytes: Uint8Array): string {
  const out = new Uint8Array(4 * Math.ceil(bytes.length / 3));
  for (let i = 0, at = 0; i < bytes.length; i += 3, at += 4) {
    const [a, b, c] = [bytes[i]!, bytes[i + 1] ?? 0, bytes[i + 2] ?? 0];
    const left = bytes.length - i;
    out[at] = SIGNS[a >> 2]!;
    out[at + 1] = SIGNS[((a & 3) << 4) | (b >> 4)]!;
    out[at + 2] = SIGNS[left > 1 ? ((b & 15) << 2) | (c >> 6) : NONE]!;
    out[at + 3] = SIGNS[left > 2 ? c & 63 : NONE]!;
  }
  return new TextDecoder().decode(out);
}

/** Units along the longer side of a drawing. */
const SIDE = 800;

interface Scale {
  readonly width: number;
  readonly height: number;
  /** Place of a vertex. */
  readonly x: (vertex: number) => number;
  readonly y: (vertex: number) => number;
}

function scaleOf({ fit }: PlanDocument): Scale {
  const k = SIDE / Math.max(fit.extent.x, fit.extent.y, 1e-9);
  const round = (v: number): number => Math.round(v * 10) / 10;
  return {
    width: Math.max(40, round(fit.extent.x * k)),
    height: Math.max(40, round(fit.extent.y * k)),
    x: (vertex) => round(vertex * fit.spacing.x * k),
    y: (vertex) => round(vertex * fit.spacing.y * k),
  };
}

const svg = ({ width, height }: Scale, label: string, content: string): string =>
  `<svg viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" role="img" aria-label="${escaped(label)}">${content}</svg>`;

/** Double lines between tiles, as on the map. */
function seams({ tiles, placement }: PlanDocument, at: Scale): string {
  if (tiles.across * tiles.down === 1) return '';
  return placement
    .map(
      ({ window: w }) =>
        `<rect x="${at.x(w.x)}" y="${at.y(w.y)}" width="${at.x(w.width - 1)}" height="${at.y(w.height - 1)}" fill="none" stroke="${INK}" stroke-width="1.5"/>`,
    )
    .join('');
}

/** A length that is easily read, at most a quarter of the ground. */
function barLength(extent: number): number {
  const most = extent / 4;
  const ten = 10 ** Math.floor(Math.log10(most));
  return (most >= 5 * ten ? 5 : most >= 2 * ten ? 2 : 1) * ten;
}

/** The ground as it is written, with its tiles, check spots, scale and north. */
export function terrainDrawing(document: PlanDocument, png: Uint8Array): string {
  const at = scaleOf(document);
  const image = `<image href="data:image/png;base64,${base64(png)}" width="${at.width}" height="${at.height}" preserveAspectRatio="none"/>`;
  const spots = document.spots
    .map((s) => {
      const [x, y] = [at.x(s.x), at.y(s.y)];
      const right = x > at.width * 0.7;
      const mark = `<circle cx="${x}" cy="${y}" r="5" fill="#f6f8f4" stroke="${INK}" stroke-width="2"/>`;
      const tx = right ? x - 10 : x + 10;
      const ty = Math.min(at.height - 8, Math.max(18, y + 5));
      return `${mark}<text x="${tx}" y="${ty}" text-anchor="${right ? 'end' : 'start'}" font-size="15" fill="${INK}" ${HALO}>${escaped(s.label)}</text>`;
    })
    .join('');
  const bar = barLength(document.fit.extent.x);
  const length = (bar / document.fit.extent.x) * at.width;
  const [bx, by] = [at.width / 2 - length / 2, at.height - 14];
  const scale = `<path d="M${bx} ${by - 8}v8h${length}v-8" fill="none" stroke="#f6f8f4" stroke-width="6"/><path d="M${bx} ${by - 8}v8h${length}v-8" fill="none" stroke="${INK}" stroke-width="2.5"/><text x="${at.width / 2}" y="${by - 6}" text-anchor="middle" font-size="15" fill="${INK}" ${HALO}>${formatLength(bar)}</text>`;
  const north = `<g transform="translate(${at.width / 2} 26)"><path d="M0 -18 7 6 0 1 -7 6Z" fill="${INK}" stroke="#f6f8f4" stroke-width="1.5"/><text y="22" text-anchor="middle" font-size="15" fill="${INK}" ${HALO}>N</text></g>`;
  return svg(
    at,
    `The ground as it is written, ${formatLength(document.fit.extent.x)} from west to east`,
    image + seams(document, at) + spots + scale + north,
  );
}

/** Which file lies where: each tile with its name and its number in the order of placing. */
export function tilesDrawing(document: PlanDocument): string {
  const at = scaleOf(document);
  const names = document.placement.map((p) => p.file.replace(/\.[^.]*$/, ''));
  const common = sameBeginning(names);
  const cells = document.placement
    .map((p, i) => {
      const { window: w } = p;
      const [x, y, wide, high] = [at.x(w.x), at.y(w.y), at.x(w.width - 1), at.y(w.height - 1)];
      const name = (names[i] ?? '').slice(common);
      const size = Math.min(26, high / 3.2, wide / (0.62 * Math.max(3, name.length)));
      const text = (dy: number, of: string, weight: number): string =>
        `<text x="${x + wide / 2}" y="${(y + high / 2 + dy * size).toFixed(1)}" text-anchor="middle" font-size="${size.toFixed(1)}" font-weight="${weight}" fill="${INK}">${escaped(of)}</text>`;
      return `<rect x="${x}" y="${y}" width="${wide}" height="${high}" fill="#f6f8f4" stroke="${INK}" stroke-width="1.5"/>${text(0, name, 600)}${text(1.15, `no. ${p.order}`, 400)}`;
    })
    .join('');
  return svg(at, `${names.length} tiles by their names, north at the top`, cells);
}

/** Letters with which all names begin, up to the last that is no number and no letter. */
function sameBeginning(names: readonly string[]): number {
  const [first = ''] = names;
  let n = 0;
  while (n < first.length && names.every((name) => name[n] === first[n])) n++;
  while (n > 0 && !/[^a-z0-9]/i.test(first[n - 1]!)) n--;
  return n;
}
