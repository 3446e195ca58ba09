/*
 * A printed page in HTML, read as a person reads it: what stands in its tables and lists. It knows the few elements
 * that such a page has; whatever else it may hold is left out.
 */

const NAMED: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', nbsp: ' ' };

/** What is read of a piece of HTML: no tags, and signs for their names. */
const readable = (html: string): string =>
  html
    .replace(/<[^>]*>/g, '')
    .replace(/&(?:#(\d{1,7})|(amp|lt|gt|quot|nbsp));/g, (all, number: string | undefined, name: string | undefined) =>
      number !== undefined ? signOf(Number(number), all) : (NAMED[name ?? ''] ?? all),
    )
    .trim();

const signOf = (code: number, otherwise: string): string => (code <= 0x10ffff ? String.fromCodePoint(code) : otherwise);

const between = (html: string, tag: string): string[] =>
  [...html.matchAll(new RegExp(`<${tag}(?: [^>]*)?>([^]*?)</${tag}>`, 'g'))].map((m) => m[1] ?? '');

/** The tables of the page by the heading above them, without their heads. */
export function tablesOfHtml(html: string): Map<string, string[][]> {
  const tables = new Map<string, string[][]>();
  for (const part of html.split('<h2>').slice(1)) {
    const heading = readable(part.slice(0, part.indexOf('</h2>')));
    const [table] = between(part, 'tbody');
    if (table !== undefined)
      tables.set(
        heading,
        between(table, 'tr').map((row) => between(row, 'td').map(readable)),
      );
  }
  return tables;
}

/** Headline, lists and paragraphs as lines of Markdown. */
export function linesOfHtml(html: string): string {
  const body = between(html, 'body')[0] ?? '';
  return [
    ...between(body, 'p').map((p) => p.replace(/<\/?strong>/g, '**')),
    ...between(body, 'li').map((item) => `- ${item}`),
  ]
    .map(readable)
    .join('\n');
}
