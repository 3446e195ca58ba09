import type { Nodes } from 'mdast';
import { fromMarkdown } from 'mdast-util-from-markdown';
import { gfmTableFromMarkdown } from 'mdast-util-gfm-table';
import { gfmTable } from 'micromark-extension-gfm-table';
import { PageBuilder, plain, type ReadPage } from './read-page';

function rawText(node: Nodes): string {
  if ('value' in node) return node.value;
  return 'children' in node ? node.children.map(rawText).join('') : '';
}
const textOf = (node: Nodes): string => plain(rawText(node));

/** A page in Markdown with tables (CommonMark, and tables as GitHub-flavoured Markdown defines them). */
export function readMarkdown(text: string): ReadPage {
  const page = new PageBuilder();
  const root = fromMarkdown(text, { extensions: [gfmTable()], mdastExtensions: [gfmTableFromMarkdown()] });
  for (const node of root.children) {
    if (node.type === 'heading') page.title(textOf(node));
    else if (node.type === 'paragraph')
      page.paragraph(textOf(node), node.children.length === 1 && node.children[0]?.type === 'strong');
    else if (node.type === 'list') for (const item of node.children) page.item(textOf(item));
    else if (node.type === 'table') page.table(node.children.slice(1).map((row) => row.children.map(textOf)));
  }
  return page.done();
}
