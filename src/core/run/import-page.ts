import { formatBytes, formatLength, formatNumber, formatShort } from '../base';
import type { PlanDocument } from '../plan';
import type { Target } from '../targets';

const STATE_WORDS = { holds: 'holds', caution: 'caution', fault: 'fault', 'not-yet': 'not yet' } as const;

const table = (head: string[], rows: string[][]): string =>
  [head, head.map(() => '---'), ...rows]
    .map((cells) => `| ${cells.map((c) => c.replace(/\|/g, '\\|')).join(' | ')} |`)
    .join('\n');

/** The import page of a pack in Markdown: the plan, printed. */
export function importPage(document: PlanDocument, target: Target): string {
  const { fit, height, tiles } = document;
  const unit = target.unit.name;
  const parts: string[] = [];
  parts.push(`# ${document.name}: import page`, `For: ${target.name}. ${target.summary}`);
  parts.push(
    [
      `- Ground: ${fit.width} × ${fit.height} vertices, ${formatShort(fit.spacing.x, 6)} m apart, ${formatLength(fit.extent.x)} × ${formatLength(fit.extent.y)}`,
      ...(fit.worldScale === 1
        ? []
        : [`- Miniature: ground and heights multiplied by ${formatShort(fit.worldScale, 6)}`]),
      `- Heights: lowest code ${formatNumber(height.low, 3)} m, highest code ${formatNumber(height.high, 3)} m, one step ${formatLength(height.step)}`,
      `- At world zero lies the elevation ${formatNumber(height.zero, 3)} m`,
      ...(document.layoutText
        ? [`- Layout${tiles.across * tiles.down > 1 ? ' of each tile' : ''}: ${document.layoutText}`]
        : []),
    ].join('\n'),
  );
  parts.push(
    '## Values to type',
    table(
      ['Value', 'Type', 'Unit', 'Why'],
      document.card.map((r) => [r.label, r.value.toFixed(r.digits), r.unit, r.formula]),
    ),
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
      `${tiles.across} × ${tiles.down} tiles of ${tiles.width} × ${tiles.height} vertices with ${tiles.edges} edges, ${fit.width} × ${fit.height} vertices in all. Rows are numbered from the ${tiles.rows}. Place them in this order; each touches one already there.`,
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

const lower = (sentence: string): string => sentence.charAt(0).toLowerCase() + sentence.slice(1);
