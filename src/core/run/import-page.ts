import { formatBytes, formatLength, formatNumber, formatShort } from '../base';
import type { CardRow, PlanDocument } from '../plan';
import type { Target } from '../targets';

const STATE_WORDS = {
  holds: 'holds',
  note: 'note',
  caution: 'caution',
  fault: 'fault',
  'not-yet': 'not yet',
} as const;

/** Text as one cell of a table: no sign of the table's own, no line of its own. */
const cell = (text: string): string =>
  text
    .replace(/\\/g, '\\\\')
    .replace(/\|/g, '\\|')
    .replace(/\s*[\r\n]+\s*/g, ' ');

const table = (head: string[], rows: string[][]): string =>
  [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.map(cell).join(' | ')} |`).join('\n');

/** A value as it is typed: no groups, a plain minus. */
export function typedText({ value, digits }: Pick<CardRow, 'value' | 'digits'>): string {
  return typeof value === 'number' ? value.toFixed(digits) : value;
}

/** The import page of a pack in Markdown: the plan, printed. */
export function importPage(document: PlanDocument, target: Target): string {
  const { fit, height, tiles } = document;
  const unit = target.unit.name;
  const parts: string[] = [];
  const title = document.draft === null ? '' : `, a draft on ${document.draft} vertices`;
  parts.push(`# ${document.name}: import page${title}`, `For: ${target.name}. ${target.summary}`);
  if (document.draft !== null)
    parts.push(
      '**A draft, for a trial import: the same ground and heights on few vertices. It proves nothing of the full pack.**',
    );
  if (document.source.assumed.length > 0)
    parts.push(
      `**Placeholders: nobody has said the ${document.source.assumed.join(', ')} of the source. Values marked "placeholder" rest on them.**`,
    );
  parts.push(
    [
      `- Source: ${document.source.file}, ${document.source.width} × ${document.source.height} samples of ${document.source.bitDepth} bits`,
      `- Ground: ${fit.width} × ${fit.height} vertices, ${formatShort(fit.spacing.x, 6)} m apart, ${formatLength(fit.extent.x)} × ${formatLength(fit.extent.y)}`,
      ...(fit.worldScale === 1
        ? []
        : [`- Miniature: ground and heights multiplied by ${formatShort(fit.worldScale, 6)}`]),
      ...(height.exaggeration === 1
        ? []
        : [
            `- Exaggeration: heights multiplied by ${formatShort(height.exaggeration, 6)}, the ground across unchanged`,
          ]),
      `- Heights: lowest code ${formatNumber(height.low, 3)} m, highest code ${formatNumber(height.high, 3)} m, one step ${formatLength(height.step)}`,
      ...(height.effectiveStep > height.step * 1.001
        ? [`- The source’s own heights lie ${formatLength(height.effectiveStep)} apart`]
        : []),
      `- At world zero lies the elevation ${formatNumber(height.zero, 3)} m`,
      ...(document.layoutText
        ? [`- Layout${tiles.across * tiles.down > 1 ? ' of each tile' : ''}: ${document.layoutText}`]
        : []),
    ].join('\n'),
  );
  parts.push(
    '## Values to type',
    table(
      ['Value', 'Type', 'Unit', 'In metres', 'How to recognise it', 'Why'],
      document.card.map((r) => [
        r.label,
        typedText(r),
        r.unit,
        r.metres,
        `${r.assumed.length > 0 ? 'placeholder. ' : ''}${r.note}`,
        r.formula,
      ]),
    ),
    `Origin: east and north offsets say where the north-west vertex of the whole ground lies, counted from the world’s zero. ${ORIENTATION}${orders(document)}`,
  );
  const words = { before: 'Before', type: 'Type', after: 'After', look: 'Look at' } as const;
  parts.push('## Steps', target.steps.map((s, i) => `${i + 1}. **${words[s.when]}:** ${s.text}`).join('\n'));
  parts.push(
    '## Check spots',
    table(
      ['Spot', 'Vertex', `East, north (${unit})`, `Height (${unit})`, 'Elevation (m)', 'Code', 'File'],
      document.spots.map((s) => [
        s.label,
        `${s.x}, ${s.y}`,
        `${formatNumber(s.east, 2)}, ${formatNumber(s.north, 2)}`,
        s.height === null ? 'void' : formatNumber(s.height, 2),
        s.elevation === null ? 'void' : formatNumber(s.elevation, 3),
        s.code === null ? '' : String(s.code),
        s.file,
      ]),
    ),
  );
  if (document.placement.length > 1) {
    parts.push(
      '## Placement',
      `${tiles.across} × ${tiles.down} tiles of ${tiles.width} × ${tiles.height} vertices with ${tiles.edges} edges, ${fit.width} × ${fit.height} vertices in all. Rows are numbered from the ${tiles.rows}. Place them in this order; each touches one already there. East and north are those of a tile’s north-west vertex.`,
      table(
        ['No.', 'File', 'Column', 'Row', 'Vertices', `East, north (${unit})`, 'Components east, south', 'Neighbours'],
        document.placement.map((p) => [
          String(p.order),
          p.file,
          String(p.column),
          String(p.row),
          `${p.window.x}–${p.window.x + p.window.width - 1}, ${p.window.y}–${p.window.y + p.window.height - 1}`,
          `${formatNumber(p.east, 2)}, ${formatNumber(p.north, 2)}`,
          p.componentsEast === null ? '' : `${p.componentsEast}, ${p.componentsSouth ?? 0}`,
          p.neighbours.join(', '),
        ]),
      ),
      `At the end: ${document.files.length} tiles, ${formatLength(fit.extent.x)} from west to east and ${formatLength(fit.extent.y)} from north to south. A tile outside these bounds is one too many.`,
    );
  }
  parts.push(
    '## Files',
    table(
      ['File', 'Size', 'Holds', 'SHA-256'],
      document.files.map((f) => [
        f.name,
        `${f.width} × ${f.height}`,
        f.format === 'png' ? 'grey PNG, 16 bits' : `RAW, 16 bits, ${f.byteOrder ?? ''}-endian, rows from the ${f.rows}`,
        f.sha256 ?? '',
      ]),
    ),
    `A file of another size: ${lower(target.wrongSize)} A file of another depth: ${lower(target.wrongDepth)}`,
    `Heights in the files: ${formatBytes(document.cost.fileBytes)} uncompressed.`,
  );
  parts.push(
    '## Checks',
    table(
      ['State', 'Check'],
      document.checks.map((c) => [STATE_WORDS[c.state], c.message]),
    ),
  );
  return `${parts.join('\n\n')}\n`;
}

const ORIENTATION = 'North is up: the first column is the westernmost; no file is turned or mirrored.';

/** In which order rows and bytes stand in the files. */
function orders({ files }: PlanDocument): string {
  const [file] = files;
  if (!file) return '';
  const rows = ` The first row of a file is the ${file.rows}ernmost.`;
  return file.byteOrder === null ? rows : `${rows} Bytes are ${file.byteOrder}-endian.`;
}

const lower = (sentence: string): string => sentence.charAt(0).toLowerCase() + sentence.slice(1);
