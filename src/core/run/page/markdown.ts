import { partsOf, type Block, type Text } from './blocks';

/** Text that Markdown takes as it stands: no sign of it makes anything stand out, or begins a link or an element. */
const escaped = (text: string): string =>
  text
    .replace(/[\\`*[\]<]/g, '\\$&')
    // between letters and digits it is one itself
    .replace(/(?<![\p{L}\p{N}])_|_(?![\p{L}\p{N}])/gu, '\\_')
    .replace(/&(?=#?\w+;)/g, '\\&')
    .replace(/\s*[\r\n]+\s*/g, ' ');

/** Text as one cell of a table. */
const cell = (text: string): string => escaped(text).replace(/\|/g, '\\|');

const line = (text: Text): string =>
  partsOf(text)
    .map((p) => (typeof p === 'string' ? escaped(p) : `**${escaped(p.strong)}**`))
    .join('');

/** What a proof has found, as a list. */
export const proofMarkdown = (lines: readonly string[]): string => lines.map((t) => `- ${escaped(t)}`).join('\n');

const row = (cells: readonly string[]): string => `| ${cells.map(cell).join(' | ')} |`;

function printed(block: Block): string | null {
  switch (block.kind) {
    case 'title':
      return `# ${escaped(block.text)}`;
    case 'heading':
      return `## ${escaped(block.text)}`;
    case 'paragraph':
      return line(block.text);
    case 'list':
      return block.items.map((t) => `- ${line(t)}`).join('\n');
    case 'steps':
      return block.items.map((t, i) => `${i + 1}. ${line(t)}`).join('\n');
    case 'table':
      return [row(block.head), row(block.head.map(() => '---')), ...block.rows.map(row)].join('\n');
    case 'proof':
      return proofMarkdown(block.lines);
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
