/**
 * What can be wrong with the pages of a pack and with the ends of its files: each harm alone, each red and named.
 */
import { deflateSync } from 'node:zlib';
import { crc32 } from 'node:zlib';
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { prove, proofLines, type Proof } from '@/core/proof';
import { PROOF_PAGES, run } from '@/core/run';
import { hills, recipeWith } from '../helpers/rasters';

type Parts = Parameters<typeof recipeWith>[0];
const [WIDTH, HEIGHT] = [211, 173];

/** Metres as floats: nothing of it is exact in binary, and no side is like another. */
function source(): ByteSource {
  const heights = Float32Array.from(hills(WIDTH, HEIGHT), (c) => 1310.3 + (c / 65535) * 829.7);
  return memorySource('kettle.raw', new Uint8Array(heights.buffer));
}
const raw = { width: WIDTH, height: HEIGHT, type: 'f32', byteOrder: 'little', skip: 0 } as const;
const given = { heights: { as: 'elevations', unit: 'metre' }, spacing: 7.3, raw } as const;

const KINDS = {
  plain: { source: given, fit: { size: [253, 127] } },
  raw: {
    target: 'odd-grid',
    source: { ...given, assumed: ['spacing', 'unit'] },
    fit: { size: 129, worldScale: 0.3 },
    height: { exaggeration: 1.7 },
    output: { format: 'raw', byteOrder: 'big', rows: 'south' },
  },
  tiles: {
    source: given,
    fit: { size: [253, 379] },
    split: { across: 2, down: 3 },
    output: { format: 'raw' },
    height: { offset: 'survey' },
  },
} satisfies Record<string, Parts>;
type Kind = keyof typeof KINDS;

const text = (folder: MemoryFolder, name: string): string => new TextDecoder().decode(folder.files.get(name));
const put = (folder: MemoryFolder, name: string, value: string | Uint8Array): void => {
  folder.files.set(name, typeof value === 'string' ? new TextEncoder().encode(value) : value);
};

const made = new Map<Kind, ReadonlyMap<string, Uint8Array<ArrayBuffer>>>();
async function packOf(kind: Kind): Promise<MemoryFolder> {
  const folder = new MemoryFolder();
  const known = made.get(kind);
  if (known) known.forEach((bytes, name) => folder.files.set(name, bytes.slice()));
  else {
    await run(recipeWith(KINDS[kind]), source(), folder);
    made.set(kind, new Map([...folder.files].map(([name, bytes]) => [name, bytes.slice()])));
  }
  return folder;
}

const proofOf = async (folder: MemoryFolder): Promise<Proof> =>
  (
    await prove({
      file: (n) => folder.source(n),
      reference: source(),
      others: [...folder.files.keys()],
      ignoreChecksums: true,
    })
  ).proof;
const faultsOf = (proof: Proof): string =>
  proof.checks
    .filter((c) => c.state === 'fault')
    .map((c) => c.message)
    .join('\n');

test.each(Object.keys(KINDS) as Kind[])('without a harm it holds: %s', async (kind) => {
  const folder = await packOf(kind);
  const proof = await proofOf(folder);
  expect(faultsOf(proof)).toBe('');
  // and with the result of the proof on its pages
  for (const [name, tell] of PROOF_PAGES) put(folder, name, tell(text(folder, name), proofLines(proof, 'kettle.raw')));
  expect(faultsOf(await proofOf(folder))).toBe('');
});

/** Words of a page, and what is put in their place; both pages are harmed, each by itself. */
const SENTENCES: readonly (readonly [Kind, string, RegExp, string, RegExp])[] = [
  ['raw', 'rows from the other end', /southernmost\./, 'northernmost.', /order of rows/],
  ['raw', 'the order of rows unsaid', / ?The first row of a file is the southernmost\./, '', /order of rows/],
  ['raw', 'bytes the other way round', /Bytes are big-endian/, 'Bytes are little-endian', /order of bytes/],
  [
    'plain',
    'bytes where there are no pairs',
    /westernmost; no/,
    'westernmost; Bytes are big-endian. no',
    /north|order of bytes/,
  ],
  ['plain', 'north turned round', /North is up/, 'North is down', /of north/],
  ['plain', 'the other end of columns', /westernmost/, 'easternmost', /of north/],
  ['plain', 'another world zero', /(At world zero lies the elevation )1/, '$12', /world zero/],
  ['tiles', 'a world zero that is not the survey’s', /(At world zero lies the elevation )0/, '$17', /world zero/],
  ['plain', 'another spacing north–south', /( × )\d([\d.]+ m apart)/, '$14$2', /its spacing is another one/],
  ['plain', 'another layout', /(Layout: )\d/, '$19', /of the layout/],
  ['tiles', 'a layout of the whole', /Layout of each tile/, 'Layout', /of the layout/],
  ['raw', 'another exaggeration', /(heights multiplied by )1\.7/, '$11.1', /exaggeration is/],
  ['raw', 'no exaggeration', /Exaggeration: /, 'Note: ', /exaggeration is nothing/],
  ['raw', 'another miniature', /(heights multiplied by )0\.3/, '$10.2', /miniature is/],
  ['plain', 'a source of another size', /(kettle\.raw, )\d+/, '$1512', /a source of 512/],
  ['plain', 'a source of another depth', /samples of 32 bits/, 'samples of 16 bits', /of 16 bits/],
  ['raw', 'a placeholder wiped off', /of the source\. Values/, 'of it. Values', /of placeholders/],
  ['raw', 'a placeholder left out', /the spacing, unit of/, 'the unit of', /of placeholders/],
  ['plain', 'a step reworded', /(Before:[^.]*)\./, '$1, or not.', /is not what is printed/],
  ['tiles', 'other bounds of all tiles', /(At the end: )\d/, '$19', /is not what is printed/],
  ['raw', 'a value that is no placeholder any more', /Placeholder\. /, '', /is not what is printed/],
  ['plain', 'another lowest code', /(lowest code )1/, '$12', /lowest and highest code/],
];

const PAGES = ['import.md', 'import.html'] as const;
const HARMS = SENTENCES.flatMap(([kind, what, from, to, named]) =>
  PAGES.map((name) => [what, name, kind, from, to, named] as const),
);

test.each(HARMS)('%s, in %s', async (_, name, kind, from, to, named) => {
  const folder = await packOf(kind);
  const before = text(folder, name);
  const pattern = name === 'import.html' ? new RegExp(from.source.replace(/\*\*/g, ''), from.flags) : from;
  const after = before.replace(pattern, to);
  expect(after).not.toBe(before);
  put(folder, name, after);
  const said = faultsOf(await proofOf(folder));
  expect(said).toMatch(named);
  expect(said).toContain(name);
});

interface Document {
  recipe?: unknown;
  card: { id: string; exact: number | null; note: string; formula: string; assumed: string[] }[];
  checks: { state: string; message: string }[];
  cost: { fileBytes: number };
  steps: unknown[];
  placement: { neighbours: string[] }[];
}
/** Changes of import.json alone; the pages are printed of what it said before. */
const DOCUMENTS: readonly (readonly [string, Kind, (d: Document) => void, RegExp])[] = [
  ['the recipe taken out', 'plain', (d) => delete d.recipe, /does not hold the recipe/],
  [
    'an unrounded value',
    'plain',
    (d) => (d.card.find((r) => r.id === 'heightScale')!.exact! += 0.37),
    /Height scale, exact/,
  ],
  ['a note', 'plain', (d) => (d.card.find((r) => r.id === 'heightScale')!.note = 'Leave it.'), /Height scale, note/],
  ['a formula', 'raw', (d) => (d.card.find((r) => r.id === 'extentX')!.formula += ' + 1'), /extent, formula/],
  ['a placeholder wiped off a value', 'raw', (d) => d.card.forEach((r) => (r.assumed = [])), /assumed/],
  ['a caution wiped off', 'raw', (d) => (d.checks = d.checks.filter((c) => c.state === 'holds')), /checks/],
  ['the cost', 'tiles', (d) => (d.cost.fileBytes += 7), /cost, fileBytes/],
];
test.each(DOCUMENTS)('%s in import.json', async (_, kind, change, named) => {
  const folder = await packOf(kind);
  const document = JSON.parse(text(folder, 'import.json')) as Document;
  change(document);
  put(folder, 'import.json', JSON.stringify(document));
  expect(faultsOf(await proofOf(folder))).toMatch(named);
});

test('of another edition the words are not judged, which is said; numbers and results are', async () => {
  for (const edition of [0, 77]) {
    const folder = await packOf('raw');
    const document = JSON.parse(text(folder, 'import.json')) as Document & { edition: number };
    document.edition = edition;
    document.card.find((r) => r.id === 'extentX')!.note = 'Told otherwise, once.';
    put(folder, 'import.json', JSON.stringify(document));
    put(folder, 'import.md', text(folder, 'import.md').replace(/North is up/, 'North lies above'));
    const proof = await proofOf(folder);
    expect(faultsOf(proof)).toBe('');
    expect(proof.checks.find((c) => c.id === 'words')).toMatchObject({ state: 'caution' });
    const row = document.card.find((r) => r.id === 'extentX')!;
    row.exact! += 1;
    put(folder, 'import.json', JSON.stringify(document));
    expect(faultsOf(await proofOf(folder))).toMatch(/extent is said to be exactly/);
  }
});

test.each(PAGES)('%s missing', async (name) => {
  const folder = await packOf('plain');
  folder.files.delete(name);
  expect(faultsOf(await proofOf(folder))).toContain(`(${name}) is missing`);
});

test.each(PAGES)('a result of the proof that is another one, in %s', async (name) => {
  const folder = await packOf('raw');
  const proof = await proofOf(folder);
  const tell = PROOF_PAGES.find(([n]) => n === name)![1];
  const lines = proofLines(proof, 'kettle.raw');
  // a caution of the proof that is left out of the page, and a number that is another one
  for (const changed of [
    lines.filter((l) => !l.startsWith('Caution')),
    lines.map((l) => l.replace(/(largest encoding error is )[\d.]+/, '$10.0001')),
  ]) {
    expect(changed).not.toEqual(lines);
    put(folder, name, tell(text(folder, name), changed));
    expect(faultsOf(await proofOf(folder))).toMatch(/what the proof has found/);
  }
});

describe('the ends of a picture', () => {
  const chunk = (type: string, data: Uint8Array): Buffer => {
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    const out = Buffer.alloc(body.length + 8);
    out.writeUInt32BE(data.length, 0);
    body.copy(out, 4);
    out.writeUInt32BE(crc32(body), body.length + 4);
    return out;
  };
  /** The chunks of a PNG. */
  function chunksOf(png: Uint8Array): { type: string; data: Uint8Array }[] {
    const out = [];
    const view = new DataView(png.buffer, png.byteOffset, png.byteLength);
    for (let at = 8; at < png.length; at += view.getUint32(at) + 12)
      out.push({
        type: Buffer.from(png.subarray(at + 4, at + 8)).toString('latin1'),
        data: png.subarray(at + 8, at + 8 + view.getUint32(at)),
      });
    return out;
  }
  const rebuilt = (png: Uint8Array, chunks: readonly { type: string; data: Uint8Array }[], after = Buffer.alloc(0)) =>
    new Uint8Array(Buffer.concat([png.subarray(0, 8), ...chunks.map((c) => chunk(c.type, c.data)), after]));

  test.each([
    [
      'a row too many inside',
      (rows: Buffer) => Buffer.concat([rows, rows.subarray(0, 1 + 2 * 253)]),
      /row|more|behind|data/i,
    ],
    ['a row too few inside', (rows: Buffer) => rows.subarray(0, rows.length - (1 + 2 * 253)), /ends|row/i],
    ['half a row too many', (rows: Buffer) => Buffer.concat([rows, Buffer.alloc(100)]), /row|more|behind|data/i],
  ])('%s', async (_, change, named) => {
    const { inflateSync } = await import('node:zlib');
    const folder = await packOf('plain');
    const png = folder.files.get('kettle.png')!;
    const chunks = chunksOf(png);
    const rows = inflateSync(Buffer.concat(chunks.filter((c) => c.type === 'IDAT').map((c) => c.data)));
    const others = chunks.filter((c) => c.type !== 'IDAT');
    const at = chunks.findIndex((c) => c.type === 'IDAT');
    put(
      folder,
      'kettle.png',
      rebuilt(png, [...others.slice(0, at), { type: 'IDAT', data: deflateSync(change(rows)) }, ...others.slice(at)]),
    );
    expect(faultsOf(await proofOf(folder))).toMatch(named);
  });

  test('bytes behind its end, and a sum that is another one', async () => {
    const folder = await packOf('plain');
    const png = folder.files.get('kettle.png')!;
    put(folder, 'kettle.png', rebuilt(png, chunksOf(png), Buffer.from('and more')));
    expect(faultsOf(await proofOf(folder))).toMatch(/kettle\.png/);
    const last = chunksOf(png);
    const at = last.findLastIndex((c) => c.type === 'IDAT');
    const data = last[at]!.data.slice();
    data[data.length - 1]! ^= 5;
    put(folder, 'kettle.png', rebuilt(png, last.with(at, { type: 'IDAT', data })));
    expect(faultsOf(await proofOf(folder))).toMatch(/kettle\.png/);
  });
});
