import { partsOf, type Block, type Text } from './blocks';

/** Text as one cell of a table: no sign of the table's own, no line of its own. */
const cell = (text: string): string =>
  text
    .replace(/\\/g, '\\\\')
    .replace(/\|/g, '\\|')
    .replace(/\s*[\r\n]+\s*/g, ' ');

const line = (text: Text): string =>
  partsOf(text)
    .map((p) => (typeof p === 'string' ? p : `**${p.strong}**`))
    .join('');

const row = (cells: readonly string[]): string => `| ${cells.map(cell).join(' | ')} |`;

function printed(block: Block): string | null {
  switch (block.kind) {
    case 'title':
      return `# ${block.text}`;
    case 'heading':
      return `## ${block.text}`;
    case 'paragraph':
      return line(block.text);
    case 'list':
      return block.items.map((t) => `- ${line(t)}`).join('\n');
    case 'steps':
      return block.items.map((t, i) => `${i + 1}. ${line(t)}`).join('\n');
    case 'table':
      return [row(block.head), row(block.head.map(() => '---')), ...block.rows.map(row)].join('\n');
    case 'proof':
      return block.lines.map((t) => `- ${t}`).join('\n');
    case 'picture':
      // pictures stand in import.html
      return null;
  }
}

/** The page as Markdown. */
export const toMarkdown = (blocks: readonly Block[]): string =>
  `${blocks
    .map(printed)
    .filter((b) => b !== null)
    .join('\n\n')}\n`;
