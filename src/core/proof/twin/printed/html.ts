import { parse, type DefaultTreeAdapterMap } from 'parse5';
import { PageBuilder, plain, type ReadPage } from './read-page';

type Node = DefaultTreeAdapterMap['node'];
type Element = DefaultTreeAdapterMap['element'];

const isElement = (node: Node): node is Element => 'tagName' in node;
const childrenOf = (node: Node): readonly Node[] => ('childNodes' in node ? node.childNodes : []);

function rawText(node: Node): string {
  if (node.nodeName === '#text') return 'value' in node ? node.value : '';
  return childrenOf(node).map(rawText).join('');
}
const textOf = (node: Node): string => plain(rawText(node));

function all(node: Node, tag: string): Element[] {
  return childrenOf(node).flatMap((child) =>
    isElement(child) ? (child.tagName === tag ? [child] : all(child, tag)) : [],
  );
}

/** What is drawn, or meant for the browser, is not read. */
const UNREAD = new Set(['head', 'style', 'script', 'template', 'svg', 'figure']);

/** A page in HTML, as a browser would take it apart. */
export function readHtml(html: string): ReadPage {
  const page = new PageBuilder();
  const visit = (node: Node): void => {
    if (!isElement(node)) {
      childrenOf(node).forEach(visit);
      return;
    }
    const { tagName } = node;
    if (UNREAD.has(tagName)) return;
    if (/^h[1-6]$/.test(tagName)) page.title(textOf(node));
    else if (tagName === 'p') {
      const strong = all(node, 'strong').map(textOf).join(' ');
      page.paragraph(textOf(node), strong !== '' && strong === textOf(node));
    } else if (tagName === 'li') page.item(textOf(node));
    else if (tagName === 'table')
      page.table(all(node, 'tbody').flatMap((body) => all(body, 'tr').map((row) => all(row, 'td').map(textOf))));
    else childrenOf(node).forEach(visit);
  };
  // pictures are long, and not read
  visit(parse(html.replace(/data:image\/png;base64,[\w+/=]*/g, '')));
  return page.done();
}
