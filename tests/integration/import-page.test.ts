import { createHash } from 'node:crypto';
import { Parser } from 'expr-eval-fork';
import sharp from 'sharp';
import { memorySource, MemoryFolder } from '@/core/base';
import { proofLines, prove } from '@/core/proof';
import { parseRecipe } from '@/core/recipe';
import { run, withProofHtml } from '@/core/run';

/*
 * The import page is all that a colleague has. Every number on it is explained here by something else: the written
 * files, read by another reader, and sums on the recipe that are written down once more. A number that nothing
 * explains fails the test.
 */
const SIDE = 320;
const SPACING = 2.5;
const LOW = -20;
const HIGH = 700;
const UNITS: Readonly<Record<string, number>> = {
  µm: 1e-6,
  mm: 1e-3,
  cm: 1e-2,
  m: 1,
  km: 1e3,
  '%': 0.01,
  kB: 1e3,
  MB: 1e6,
};

/** Codes of a source whose every sample is its own: a slope and ripples. */
const source = Uint16Array.from({ length: SIDE * SIDE }, (_, i) => {
  const [x, y] = [i % SIDE, Math.floor(i / SIDE)];
  return Math.round(9000 + 110 * x + 55 * y + 900 * Math.sin(x / 9) * Math.cos(y / 13));
});

interface Printed {
  readonly value: number;
  readonly digits: number;
  readonly factor: number;
  readonly text: string;
}

/** All numbers of a text, with their units. Names of files and checksums are looked at on their own. */
function numbersIn(text: string, names: readonly string[]): Printed[] {
  let rest = text.replace(/[0-9a-f]{64}/g, ' ');
  for (const name of names) rest = rest.split(name).join(' ');
  // a power of two is a word here, and so are the names of files in pictures
  rest = rest
    .replace(/2ⁿ \+ 1/g, ' ')
    .replace(/r\d\dc\d\d/g, ' ')
    .replace(/import\.(json|md|html)/g, ' ');
  return [...rest.matchAll(/([−-]?)(\d{1,3}(?: \d{3})+|\d+)(\.\d+)?(?: (µm|mm|cm|km|m|%|kB|MB)(?![a-z]))?/g)].map(
    (m) => ({
      value: (m[1] ? -1 : 1) * Number((m[2] ?? '').replace(/ /g, '') + (m[3] ?? '')),
      digits: (m[3] ?? '.').length - 1,
      factor: UNITS[m[4] ?? ''] ?? 1,
      text: m[0],
    }),
  );
}

/** Those that none of the numbers explains, to the last digit printed, either way round a range or a minus. */
function unexplained(text: string, by: readonly number[], names: readonly string[] = []): string[] {
  return numbersIn(text, names)
    .filter(
      ({ value, digits, factor }) =>
        !by.some(
          (e) => Math.abs(Math.abs(value * factor) - Math.abs(e)) <= 0.5 * 10 ** -digits * factor * 1.0001 + 1e-12,
        ),
    )
    .map((p) => p.text);
}

interface Section {
  readonly heading: string;
  readonly lines: string[];
  readonly rows: string[][];
}

const text = (html: string): string =>
  html
    .replace(/<[^>]*>/g, '')
    .replace(/&nbsp;/g, ' ')
    .replace(/&quot;/g, '"')
    .replace(/&#39;/g, "'")
    .replace(/&amp;/g, '&');
const all = (html: string, tag: string): string[] =>
  [...html.matchAll(new RegExp(`<${tag}(?:\\s[^>]*)?>([\\s\\S]*?)</${tag}>`, 'g'))].map((m) => text(m[1]!));

function sectionsOf(html: string): Section[] {
  const body = /<body>([\s\S]*)<\/body>/.exec(html)![1]!;
  return body
    .split(/<h[12]>/)
    .slice(1)
    .map((part) => {
      const heading = text(/^([\s\S]*?)<\/h[12]>/.exec(part)![1]!);
      const rows = [...(/<tbody>([\s\S]*)<\/tbody>/.exec(part)?.[1] ?? '').matchAll(/<tr>([\s\S]*?)<\/tr>/g)].map((r) =>
        all(r[1]!, 'td'),
      );
      const labels = [...part.matchAll(/aria-label="([^"]*)"/g)].map((m) => text(m[1]!));
      return {
        heading,
        rows,
        lines: ['p', 'li', 'text', 'figcaption', 'th'].flatMap((t) => all(part, t)).concat(labels),
      };
    });
}

/** The left side of a formula, worked out. */
function workedOut(formula: string): number {
  const sum = formula
    .replace(/ (?=\d{3})/g, '')
    .replace(/·/g, '*')
    .replace(/−/g, '-')
    .replace(/ m\b/g, '')
    .replace(/^[^:]*: /, '');
  expect(sum).toMatch(/^[\d.\s()*/+-]+$/);
  return Number(Parser.evaluate(sum));
}

interface Case {
  readonly what: string;
  readonly recipe: Record<string, unknown>;
  readonly width: number;
  readonly height: number;
  readonly at: readonly [number, number];
  readonly low: number;
  readonly high: number;
  readonly zero: number;
  readonly across: number;
  readonly down: number;
}

const CASES: readonly Case[] = [
  {
    what: 'component grid, cropped, 2 × 1 tiles of PNG',
    recipe: {
      target: 'component-grid',
      fit: { size: [253, 127], method: 'crop', at: [30, 40], origin: 'centre' },
      height: { range: 'pinned', low: -30, high: 720, offset: 'sea', sea: 12 },
      split: { across: 2, down: 1 },
    },
    width: 253,
    height: 127,
    at: [30, 40],
    low: -30,
    high: 720,
    zero: 12,
    across: 2,
    down: 1,
  },
  {
    what: 'odd grid, cropped, 2 × 2 tiles of RAW, south row first',
    recipe: {
      target: 'odd-grid',
      fit: { size: 257, method: 'crop', at: [10, 20], origin: 'south-west' },
      height: { range: 'codes', offset: 'survey' },
      split: { across: 2, down: 2, rows: 'south' },
      output: { format: 'raw', byteOrder: 'big', rows: 'south' },
    },
    width: 257,
    height: 257,
    at: [10, 20],
    low: LOW,
    high: HIGH,
    zero: 0,
    across: 2,
    down: 2,
  },
];

test.each(CASES)('every number of the page is explained: $what', async (c) => {
  const { width, height, low, high, zero, across, down } = c;
  const png = await sharp(source, { raw: { width: SIDE, height: SIDE, channels: 1 } })
    .toColourspace('grey16')
    .png()
    .toBuffer();
  const recipe = parseRecipe({
    version: 2,
    name: 'Gullsward',
    source: { low: LOW, high: HIGH, spacing: SPACING },
    ...c.recipe,
  });
  const folder = new MemoryFolder();
  const given = (): ReturnType<typeof memorySource> => memorySource('cold-ridge.png', new Uint8Array(png));
  await run(recipe, given(), folder);
  const file = (name: string) => (folder.files.has(name) ? memorySource(name, folder.files.get(name)!) : null);
  const { proof } = await prove({ file, reference: given() });
  expect(proof.checks.filter((k) => k.state === 'fault')).toEqual([]);
  const html = withProofHtml(
    new TextDecoder().decode(folder.files.get('import.html')),
    proofLines(proof, 'cold-ridge.png'),
  );

  // the files, by another reader
  const png16 = recipe.target === 'component-grid';
  const unit = png16 ? 0.01 : 1;
  const tileWidth = (width - 1) / across + 1;
  const tileHeight = (height - 1) / down + 1;
  const names = [...folder.files.keys()].filter((n) => /\.(png|raw)$/.test(n)).sort();
  expect(names).toHaveLength(across * down);
  const codes = new Map<string, Uint16Array>();
  for (const name of names) {
    const bytes = Buffer.from(folder.files.get(name)!);
    if (png16) {
      const { data, info } = await sharp(bytes)
        .toColourspace('grey16')
        .raw({ depth: 'ushort' })
        .toBuffer({ resolveWithObject: true });
      expect([info.width, info.height]).toEqual([tileWidth, tileHeight]);
      codes.set(name, new Uint16Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength)));
    } else {
      expect(bytes.length).toBe(tileWidth * tileHeight * 2);
      const rows = Array.from({ length: tileHeight }, (_, y) =>
        Array.from({ length: tileWidth }, (__, x) => bytes.readUInt16BE(((tileHeight - 1 - y) * tileWidth + x) * 2)),
      );
      codes.set(name, Uint16Array.from(rows.flat()));
    }
  }
  /** The name of a tile by its place from the west and the north: rows of the second case count from the south. */
  const nameAt = (west: number, north: number): string => {
    const row = recipe.split!.rows === 'south' ? down - 1 - north : north;
    return `Gullsward-r0${row}c0${west}.${png16 ? 'png' : 'raw'}`;
  };
  const sourceAt = (x: number, y: number): number =>
    LOW + (source[(y + c.at[1]) * SIDE + x + c.at[0]]! / 65535) * (HIGH - LOW);
  const step = (high - low) / 65535;
  const east = recipe.fit.origin === 'centre' ? -((width - 1) * SPACING) / 2 : 0;
  const north = recipe.fit.origin === 'centre' ? ((height - 1) * SPACING) / 2 : (height - 1) * SPACING;
  const extents = [(width - 1) * SPACING, (height - 1) * SPACING];
  const distinct = new Set(source).size;
  const heights = { min: Infinity, max: -Infinity, error: 0 };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const h = sourceAt(x, y);
      heights.min = Math.min(heights.min, h);
      heights.max = Math.max(heights.max, h);
    }

  const [head, ...others] = sectionsOf(html);
  const section = (name: string): Section => others.find((s) => s.heading === name)!;
  expect(others.map((s) => s.heading)).toEqual([
    'Proof',
    'Values to type',
    'Steps',
    'Check spots',
    'Placement',
    'Files',
    'Checks',
  ]);

  // 1. what stands above
  const bar = /^(\d+(?:\.\d)?) (k?m)$/;
  const scale = head!.lines.find((l) => bar.test(l))!;
  expect([1, 2, 5]).toContain(Number(scale.replace(/[^1-9]/g, '')));
  const layout = png16 ? [1, 1, 2, 63] : [];
  for (const l of head!.lines.filter((t) => t !== scale))
    expect([
      l,
      unexplained(l, [SIDE, 16, width, height, SPACING, ...extents, low, high, step, zero, 32768, ...layout], names),
    ]).toEqual([l, []]);

  // 2. values: each by a sum of its own
  const should: Record<string, number | string> = png16
    ? {
        'Vertices, east–west': tileWidth,
        'Vertices, north–south': tileHeight,
        'Quads per patch': 63,
        'Patches per component side': 2,
        'Components, east–west': 1,
        'Components, north–south': 1,
        'Ground scale east': SPACING / 0.01,
        'Ground scale north': SPACING / 0.01,
        'Height scale': ((high - low) * 12800) / 65535,
        'Height offset': (low + 32768 * step - zero) / 0.01,
        'East offset': east / 0.01,
        'North offset': north / 0.01,
        'Mask edge to edge, quads': width - 1,
        'Mask texel per vertex': width,
        'Mask of the source, quads': SIDE - 1,
        'It begins, quads east': -c.at[0],
        'It begins, quads south': -c.at[1],
        'Bit depth': 16,
      }
    : {
        'Vertices per side': tileWidth,
        'East–west extent': (tileWidth - 1) * SPACING,
        'North–south extent': (tileHeight - 1) * SPACING,
        'Height range': high - low,
        'Base elevation': low - zero,
        'East offset': east,
        'North offset': north,
        'Bit depth': 16,
        'Byte order': 'big',
        'First row': 'south',
        'Bytes in a file': tileWidth * tileHeight * 2,
      };
  const values = section('Values to type');
  expect(values.rows.map((r) => r[0])).toEqual(Object.keys(should));
  const off = Math.max(c.at[0], c.at[1], SIDE - width - c.at[0], SIDE - height - c.at[1]) * SPACING;
  for (const [label = '', typed = '', , metres = '', note = '', formula = ''] of values.rows) {
    const value = should[label]!;
    if (typeof value === 'string') expect([label, typed]).toEqual([label, value]);
    else {
      const digits = (typed.split('.')[1] ?? '').length;
      expect([label, Math.abs(Number(typed) - value) <= 0.5001 * 10 ** -digits]).toEqual([label, true]);
      if (metres !== '')
        expect([metres, unexplained(metres, [label === 'Height scale' ? high - low : value * unit])]).toEqual([
          metres,
          [],
        ]);
      const [left = '', right] = formula.split(' = ');
      if (right !== undefined)
        expect([formula, Math.abs(workedOut(left) - Number(typed)) <= 0.5001 * 10 ** -digits]).toEqual([formula, true]);
      if (right !== undefined) expect([formula, unexplained(right, [Number(typed)])]).toEqual([formula, []]);
    }
    const facts = [
      16,
      65536,
      32768,
      0.5,
      100,
      511.9921875,
      0,
      1,
      2,
      63,
      127,
      SPACING,
      0.01,
      256,
      12800,
      65535,
      off,
      low,
      high,
      zero,
    ];
    const more = [
      width,
      height,
      tileWidth,
      tileHeight,
      SIDE,
      ...extents,
      tileWidth * tileHeight * 2,
      ...Object.values(should).map(Number),
    ];
    expect([label, unexplained(`${note} ${formula}`, [...facts, ...more])]).toEqual([label, []]);
  }

  // 3. check spots: from the files
  const spots = section('Check spots');
  expect(spots.rows).toHaveLength(7);
  let [least, most] = [65535, 0];
  for (const tile of codes.values())
    for (const code of tile) [least, most] = [Math.min(least, code), Math.max(most, code)];
  for (const [label, vertex = '', position = '', shown = '', elevation = '', code = '', name = ''] of spots.rows) {
    const [x = 0, y = 0] = vertex.split(', ').map(Number);
    const west = Math.min(across - 1, Math.floor(x / (tileWidth - 1)));
    const top = Math.min(down - 1, Math.floor(y / (tileHeight - 1)));
    const inFile = (w: number, n: number): number =>
      codes.get(nameAt(w, n))![(y - n * (tileHeight - 1)) * tileWidth + x - w * (tileWidth - 1)]!;
    const [column, row] = [Number(/c(\d+)/.exec(name)![1]), Number(/r(\d+)/.exec(name)![1])];
    expect([label, inFile(column, recipe.split!.rows === 'south' ? down - 1 - row : row)]).toEqual([
      label,
      Number(code),
    ]);
    expect([label, inFile(west, top)]).toEqual([label, Number(code)]);
    expect([label, unexplained(position, [(east + x * SPACING) / unit, (north - y * SPACING) / unit])]).toEqual([
      label,
      [],
    ]);
    expect([label, unexplained(elevation, [sourceAt(x, y)])]).toEqual([label, []]);
    expect([label, unexplained(shown, [(sourceAt(x, y) - zero) / unit])]).toEqual([label, []]);
    // the code is that of the elevation
    expect(Math.abs(low + Number(code) * step - sourceAt(x, y))).toBeLessThanOrEqual(step * 0.5001);
    if (label === 'Highest') expect(Number(code)).toBe(most);
    if (label === 'Lowest') expect(Number(code)).toBe(least);
  }

  // 4. placement
  const placement = section('Placement');
  expect(placement.rows).toHaveLength(across * down);
  expect(new Set(placement.rows.map((r) => r[1]))).toEqual(new Set(names));
  placement.rows.forEach(
    ([order, name = '', column, row, vertices = '', position = '', components = '', neighbours = ''], i) => {
      const [w, r] = [Number(column), Number(row)];
      const n = recipe.split!.rows === 'south' ? down - 1 - r : r;
      expect([order, name]).toEqual([String(i + 1), nameAt(w, n)]);
      const [x, y] = [w * (tileWidth - 1), n * (tileHeight - 1)];
      expect(vertices).toBe(`${x}–${x + tileWidth - 1}, ${y}–${y + tileHeight - 1}`);
      expect(unexplained(position, [(east + x * SPACING) / unit, (north - y * SPACING) / unit])).toEqual([]);
      expect(components).toBe(png16 ? `${w}, ${n}` : '');
      for (const other of neighbours.split(', ')) expect(names).toContain(other);
    },
  );
  const orders = Array.from({ length: across * down }, (_, i) => i + 1);
  for (const l of placement.lines)
    expect([
      l,
      unexplained(l, [...orders, across, down, tileWidth, tileHeight, width, height, ...extents], names),
    ]).toEqual([l, []]);

  // 5. files
  const files = section('Files');
  expect(files.rows.map((r) => r[0]).sort()).toEqual(names);
  for (const [name = '', size, holds = '', sum] of files.rows) {
    expect(size).toBe(`${tileWidth} × ${tileHeight}`);
    expect(unexplained(holds, [16])).toEqual([]);
    expect(sum).toBe(createHash('sha256').update(folder.files.get(name)!).digest('hex'));
  }
  for (const l of files.lines)
    expect([l, unexplained(l, [8, 16, 256, across * down * tileWidth * tileHeight * 2])]).toEqual([l, []]);

  // 6. steps, proof and checks: sentences
  for (const l of section('Steps').lines) expect([l, unexplained(l, [1, 16])]).toEqual([l, []]);
  const samples = across * down * tileWidth * tileHeight;
  const rounding = (label: string): number => {
    const typed = values.rows.find((r) => r[0] === label)?.[1] ?? '0';
    return 0.5 * 10 ** -(typed.split('.')[1] ?? '').length;
  };
  const typing = png16
    ? (256 * rounding('Height scale') + rounding('Height offset')) / 100
    : rounding('Height range') + rounding('Base elevation');
  const corners = (across - 1) * (down - 1);
  const pairs = (across - 1) * down * tileHeight + (down - 1) * across * tileWidth + 2 * corners;
  let largest = 0;
  for (let n = 0; n < down; n++)
    for (let w = 0; w < across; w++)
      codes.get(nameAt(w, n))!.forEach((code, i) => {
        const [x, y] = [w * (tileWidth - 1) + (i % tileWidth), n * (tileHeight - 1) + Math.floor(i / tileWidth)];
        largest = Math.max(largest, Math.abs(low + code * step - sourceAt(x, y)));
      });
  const min = source.reduce((a, b) => Math.min(a, b));
  const max = source.reduce((a, b) => Math.max(a, b));
  const arithmetic = step / 100;
  const places = proof.places!.compared;
  expect(places).toBeGreaterThan(1000);
  const said = [
    names.length,
    width,
    height,
    SPACING,
    values.rows.length,
    tileWidth,
    tileHeight,
    min,
    max,
    low,
    high,
    places,
    samples,
    7,
    pairs,
    SIDE,
  ];
  for (const l of section('Proof').lines)
    expect([
      l,
      unexplained(l, [...said, largest, step / 2 + typing + arithmetic, step / 2, typing, arithmetic], names),
    ]).toEqual([l, []]);
  const sourceStep = (HIGH - LOW) / 65535;
  const eye = Math.max(step, sourceStep);
  const kept = (width * height) / SIDE ** 2;
  const facts = [
    distinct,
    sourceStep,
    width,
    height,
    SIDE,
    kept,
    SPACING,
    tileWidth,
    8129,
    4097,
    1,
    across * down,
    1024,
    step,
    eye,
  ];
  const eyed = [
    0.02,
    eye / (0.02 * SPACING),
    eye / SPACING,
    zero - heights.min,
    across,
    down,
    tileHeight,
    heights.min,
    heights.max,
  ];
  // how many layouts a tile of 127 vertices has: 1 × 126, 2 × 63, 9 × 14 … of quads 7, 15, 31, 63, 127 in one or two patches
  const layouts = [7, 15, 31, 63, 127, 255]
    .flatMap((q) => [1, 2].map((p) => q * p))
    .filter((q) => 126 % q === 0 && 126 / q <= 32);
  for (const [, message = ''] of section('Checks').rows)
    expect([message, unexplained(message, [...facts, ...eyed, layouts.length], names)]).toEqual([message, []]);
});
