import { formatBytes, formatExtent, formatLength, formatNumber, formatShort } from '../../base';
import type { CardRow, PlanDocument } from '../../plan';
import { saysPlace } from '../../raster';
import { writtenTarget, type Target } from '../../targets';
import type { Block } from './blocks';
import { UNPROVED } from './proof-result';

const STATE_WORDS = {
  holds: 'holds',
  note: 'note',
  caution: 'caution',
  fault: 'fault',
  'not-yet': 'not yet',
} as const;

/** A value as it is typed: no groups, a plain minus. */
export function typedText({ value, digits }: Pick<CardRow, 'value' | 'digits'>): string {
  return typeof value === 'number' ? value.toFixed(digits) : value;
}

const WORDS = { before: 'Before', type: 'Type', after: 'After', look: 'Look at' } as const;

/** The import page of a pack: the plan, in blocks to print. */
export function pageBlocks(document: PlanDocument, target: Target): Block[] {
  const several = document.placement.length > 1;
  const steps = several ? target.stepsOfTiles : target.steps;
  return [
    ...head(document, target),
    { kind: 'heading', text: 'Proof' },
    { kind: 'proof', lines: [UNPROVED] },
    { kind: 'heading', text: 'Values to type' },
    {
      kind: 'table',
      head: ['Value', 'Type', 'Unit', 'In metres', 'How to recognise it', 'Why'],
      rows: document.card.map((r) => [
        r.label,
        typedText(r),
        r.unit,
        r.metres,
        `${r.assumed.length > 0 ? 'Placeholder. ' : ''}${r.note}`,
        r.formula === r.note ? '' : r.formula,
      ]),
      numbers: [1, 2, 3],
    },
    {
      kind: 'paragraph',
      text: `${originOf(document)}${orientationOf(document)}${orders(document)}`,
    },
    { kind: 'heading', text: 'Steps' },
    { kind: 'steps', items: steps.map((s) => [{ strong: `${WORDS[s.when]}:` }, ` ${s.text}`]) },
    { kind: 'heading', text: 'Check spots' },
    spotTable(document, target.unit.name),
    ...(several ? placementBlocks(document, target.unit.name) : []),
    ...fileBlocks(document, target),
    { kind: 'heading', text: 'Checks' },
    {
      kind: 'table',
      head: ['State', 'Check'],
      rows: document.checks.map((c) => [STATE_WORDS[c.state], c.message]),
    },
  ];
}

/** Metres from vertex to vertex; of both ways, east–west first, where they differ. */
function spacingText({ x, y }: PlanDocument['fit']['spacing']): string {
  const [east, north] = [formatShort(x, 6), formatShort(y, 6)];
  return east === north ? east : `${east} × ${north}`;
}

const CANT_SAY = {
  png: 'a PNG',
  raw: 'a RAW',
  tiff: 'a TIFF',
  exr: 'an EXR',
  asc: 'an ASCII grid that is turned',
} as const;

/** Where the whole lies on the map that its source states, in coordinates of that map. */
function mapWords({ map, fit, recipe: { output } }: PlanDocument): string[] {
  if (!map) return [];
  const { origin, across, down, degrees, crs } = map;
  const at = (x: number, y: number): string =>
    [0, 1].map((k) => formatShort(origin[k]! + x * across[k]! + y * down[k]!, degrees ? 9 : 4)).join(' east, ');
  const written = saysPlace(output.format, map)
    ? 'the files say so themselves'
    : `${CANT_SAY[output.format]} can’t say so`;
  return [
    `On the map${crs === null ? '' : ` (${crs})`}${degrees ? ', in degrees' : ''}: the first sample of the whole at ${at(0, 0)} north, the last at ${at(fit.width - 1, fit.height - 1)} north; ${written}`,
  ];
}

function head(document: PlanDocument, target: Target): Block[] {
  const { fit, height, tiles, source } = document;
  const title = document.draft === null ? '' : `, a draft on ${document.draft} vertices`;
  const strong = (text: string): Block => ({ kind: 'paragraph', text: [{ strong: text }] });
  return [
    { kind: 'title', text: `${document.name}: import page${title}` },
    { kind: 'paragraph', text: `For: ${target.name}. ${target.summary}` },
    ...(document.draft === null
      ? []
      : [
          strong(
            'A draft, for a trial import: the same ground and heights on few vertices. It proves nothing of the full pack.',
          ),
        ]),
    ...(source.assumed.length === 0
      ? []
      : [
          strong(
            `Placeholders: nobody has said the ${source.assumed.join(', ')} of the source. Values marked "placeholder" rest on them.`,
          ),
        ]),
    {
      kind: 'list',
      items: [
        `Source: ${source.file}, ${source.width} × ${source.height} samples of ${source.bitDepth} bits`,
        `Ground: ${fit.width} × ${fit.height} ${samplesOf(document)}, ${spacingText(fit.spacing)} m apart, ${formatExtent(fit.extent.x, fit.extent.y)}`,
        ...mapWords(document),
        ...(fit.worldScale === 1
          ? []
          : [`Miniature: ground and heights multiplied by ${formatShort(fit.worldScale, 6)}`]),
        ...(height.exaggeration === 1
          ? []
          : [
              `Exaggeration: heights multiplied by ${formatShort(height.exaggeration, 6)}, the ground across unchanged`,
            ]),
        heightWords(document),
        ...(height.effectiveStep > height.step * 1.001
          ? [`The source’s own heights lie ${formatLength(height.effectiveStep)} apart`]
          : []),
        `At world zero lies the elevation ${formatNumber(height.zero, 3)} m`,
        ...(document.layoutText
          ? [`Layout${tiles.across * tiles.down > 1 ? ' of each tile' : ''}: ${document.layoutText}`]
          : []),
      ],
    },
    {
      kind: 'picture',
      of: 'terrain',
      caption: 'The ground as it is written, north at the top, with the check spots of this page.',
    },
  ];
}

/** What is stored for a height. */
function heightWords({ recipe, height: { low, high, step } }: PlanDocument): string {
  const [from, to] = [formatNumber(low, 3), formatNumber(high, 3)];
  switch (writtenTarget(recipe).encoding.stores) {
    case 'codes':
      return `Heights: lowest code ${from} m, highest code ${to} m, one step ${formatLength(step)}`;
    case 'shares':
      return `Heights: 0 stands for ${from} m, 1 for ${to} m, told apart to ${formatLength(step)}`;
    case 'metres':
      return `Heights: in metres, as they are, told apart to ${formatLength(step)}`;
  }
}

/** What a file holds at a spot: a code, or as many digits as make a float of 32 bits. */
function storedText(stored: number): string {
  if (Number.isInteger(stored)) return String(stored);
  for (let digits = 6; digits < 9; digits++)
    if (Math.fround(Number(stored.toPrecision(digits))) === stored) return String(Number(stored.toPrecision(digits)));
  return String(Number(stored.toPrecision(9)));
}

const spotTable = (document: PlanDocument, unit: string): Block => ({
  kind: 'table',
  head: [
    'Spot',
    document.fit.registration === 'cell' ? 'Cell' : 'Vertex',
    `East, north (${unit})`,
    `Height (${unit})`,
    'Elevation (m)',
    writtenTarget(document.recipe).encoding.stores === 'codes' ? 'Code' : 'In the file',
    'File',
  ],
  rows: document.spots.map((s) => [
    s.label,
    `${s.x}, ${s.y}`,
    `${formatNumber(s.east, 2)}, ${formatNumber(s.north, 2)}`,
    s.height === null ? 'void' : formatNumber(s.height, 2),
    s.elevation === null ? 'void' : formatNumber(s.elevation, 3),
    s.code === null ? '' : storedText(s.code),
    s.file,
  ]),
  numbers: [1, 2, 3, 4, 5],
  names: [6],
});

function placementBlocks(document: PlanDocument, unit: string): Block[] {
  const { fit, tiles } = document;
  return [
    { kind: 'heading', text: 'Placement' },
    {
      kind: 'paragraph',
      text: `${tiles.across} × ${tiles.down} tiles of ${tiles.width} × ${tiles.height} ${samplesOf(document)} with ${tiles.edges} edges, ${fit.width} × ${fit.height} ${samplesOf(document)} in all. Rows are numbered from the ${tiles.rows}. Place them in this order; each touches one already there. East and north are those of a tile’s north-west ${cornerOf(document)}.`,
    },
    {
      kind: 'picture',
      of: 'tiles',
      caption:
        'The tiles by the part of the name that differs, north at the top; below it the number of the placement.',
    },
    {
      kind: 'table',
      head: [
        'No.',
        'File',
        'Column',
        'Row',
        'Vertices',
        `East, north (${unit})`,
        'Components east, south',
        'Neighbours',
      ],
      rows: document.placement.map((p) => [
        String(p.order),
        p.file,
        String(p.column),
        String(p.row),
        `${p.window.x}–${p.window.x + p.window.width - 1}, ${p.window.y}–${p.window.y + p.window.height - 1}`,
        `${formatNumber(p.east, 2)}, ${formatNumber(p.north, 2)}`,
        p.componentsEast === null ? '' : `${p.componentsEast}, ${p.componentsSouth ?? 0}`,
        p.neighbours.join(', '),
      ]),
      numbers: [0, 2, 3, 4, 5, 6],
      names: [1, 7],
    },
    {
      kind: 'paragraph',
      text: `At the end: ${document.files.length} tiles, ${formatLength(fit.extent.x)} from west to east and ${formatLength(fit.extent.y)} from north to south. A tile outside these bounds is one too many.`,
    },
  ];
}

const FORMAT_WORDS = {
  png: 'grey PNG',
  tiff: 'grey TIFF',
  exr: 'EXR of one channel',
  asc: 'ASCII grid, numbers as text',
} as const;

function fileBlocks(document: PlanDocument, target: Target): Block[] {
  const { encoding } = writtenTarget(document.recipe);
  const packing = document.recipe.output.compression === 'deflate' ? ', packed without loss' : ', not compressed';
  const depth = encoding.stores === 'codes' ? `${encoding.bits} bits` : encoding.words;
  return [
    { kind: 'heading', text: 'Files' },
    {
      kind: 'table',
      head: ['File', 'Size', 'Holds', 'SHA-256'],
      rows: document.files.map((f) => [
        f.name,
        `${f.width} × ${f.height}`,
        f.format === 'raw'
          ? `RAW, ${depth}, ${f.byteOrder === null ? '' : `${f.byteOrder}-endian, `}rows from the ${f.rows}`
          : `${FORMAT_WORDS[f.format]}, ${depth}${f.format === 'png' || f.format === 'asc' ? '' : packing}`,
        f.sha256 ?? '',
      ]),
      numbers: [1],
      names: [0, 3],
    },
    {
      kind: 'paragraph',
      text: `A file of another size: ${lower(target.wrongSize)} A file of another depth: ${lower(target.wrongDepth)}`,
    },
    ...(document.files.some((f) => f.format === 'asc')
      ? []
      : [
          {
            kind: 'paragraph' as const,
            text: `Heights in the files: ${formatBytes(document.cost.fileBytes)} uncompressed.`,
          },
        ]),
  ];
}

const samplesOf = ({ fit }: PlanDocument): string => (fit.registration === 'cell' ? 'cells' : 'vertices');
const cornerOf = ({ fit }: PlanDocument): string => (fit.registration === 'cell' ? 'corner' : 'vertex');

/** What the offsets of the card are counted from, where it has any. */
const originOf = (document: PlanDocument): string =>
  document.card.some((r) => r.id === 'eastOffset')
    ? `Origin: east and north offsets say where the north-west ${cornerOf(document)} of the whole ground lies, counted from the world’s zero. `
    : '';

/** How files lie against the ground. */
const orientationOf = ({ fit }: PlanDocument): string =>
  fit.turn === 180
    ? 'North is down: the target turns each file by half a turn, so its first column is the easternmost; no file is mirrored.'
    : 'North is up: the first column is the westernmost; no file is turned or mirrored.';

/** In which order rows and bytes stand in the files. */
function orders({ files }: PlanDocument): string {
  const [file] = files;
  if (!file) return '';
  const rows = ` The first row of a file is the ${file.rows}ernmost.`;
  return file.byteOrder === null ? rows : `${rows} Bytes are ${file.byteOrder}-endian.`;
}

const lower = (sentence: string): string => sentence.charAt(0).toLowerCase() + sentence.slice(1);
