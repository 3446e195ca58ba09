import { partsOf, type Block, type Text } from './blocks';

const SIGNS: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

/** Text from outside as text of an HTML page. */
export const escaped = (text: string): string => text.replace(/[&<>"']/g, (c) => SIGNS[c] ?? c);

/** The same to be read: no line ends between the groups of a number. */
const printedText = (text: string): string => escaped(text).replace(/(\d) (?=\d{3}(?!\d))/g, '$1&nbsp;');

const line = (text: Text): string =>
  partsOf(text)
    .map((p) => (typeof p === 'string' ? printedText(p) : `<strong>${printedText(p.strong)}</strong>`))
    .join('');

/** Between these lies the result of the proof. */
export const PROOF_BEGIN = '<!-- proof -->';
export const PROOF_END = '<!-- end of proof -->';

export const proofList = (lines: readonly string[]): string =>
  `${PROOF_BEGIN}<ul>${lines.map((l) => `<li>${printedText(l)}</li>`).join('\n')}</ul>${PROOF_END}`;

function table({ head, rows, numbers = [], names = [] }: Extract<Block, { kind: 'table' }>): string {
  const of = (i: number): string => (numbers.includes(i) ? ' class="n"' : names.includes(i) ? ' class="f"' : '');
  return `<div class="t"><table><thead><tr>${head.map((h, i) => `<th scope="col"${of(i)}>${escaped(h)}</th>`).join('')}</tr></thead>
<tbody>${rows.map((r) => `<tr>${r.map((c, i) => `<td${of(i)}>${printedText(c)}</td>`).join('')}</tr>`).join('\n')}</tbody></table></div>`;
}

/*
 * It is read on a screen, and printed: names of files may break anywhere, numbers never, nor rows across pages, heads stand on every page.
 * Colours are those of paper; nothing is fetched, and no script runs.
 */
const STYLE = `
:root { color: #18242a; background: #f6f8f4; font: 15px/1.45 "Barlow Semi Condensed", "Roboto Condensed", system-ui, sans-serif; }
body { max-width: 60rem; margin: 0 auto; padding: 1.5rem 1rem 3rem; }
h1 { font-size: 1.6rem; margin: 0 0 .5rem; } h2 { font-size: 1.15rem; margin: 1.8rem 0 .5rem; break-after: avoid; }
p, ul, ol { margin: .5rem 0; } ul, ol { padding-left: 1.3rem; } li { margin: .15rem 0; }
table { border-collapse: collapse; width: 100%; font-size: .87rem; }
th { text-align: left; font-weight: 600; border-bottom: 1px solid #18242a; vertical-align: bottom; }
td { border-bottom: 1px solid #c3ccc5; vertical-align: top; }
th, td { padding: .25rem .6rem .25rem 0; overflow-wrap: break-word; } .f { overflow-wrap: anywhere; }
.n { text-align: right; } td.n { white-space: nowrap; font-family: "Spline Sans Mono", ui-monospace, monospace; font-size: .82rem; }
tr { break-inside: avoid; } thead { display: table-header-group; }
figure { margin: 1rem 0; break-inside: avoid; } figcaption { color: #52626a; font-size: .87rem; }
svg { display: block; width: auto; height: auto; max-width: 100%; max-height: 36rem; border: 1px solid #18242a; background: #e9ede8; }
@media screen { .t { overflow-x: auto; } }
@media print { @page { size: A4; margin: 14mm; } :root { background: none; font-size: 9.5pt; } body { max-width: none; padding: 0; } svg { max-height: 150mm; } }
`;

/** The page as one HTML file that needs nothing else; `pictures`: SVG of each picture there is. */
export function toHtml(blocks: readonly Block[], pictures: Readonly<Partial<Record<string, string>>>): string {
  const title = blocks.flatMap((b) => (b.kind === 'title' ? [b.text] : [])).join();
  const printed = (b: Block): string => {
    switch (b.kind) {
      case 'title':
        return `<h1>${escaped(b.text)}</h1>`;
      case 'heading':
        return `<h2>${escaped(b.text)}</h2>`;
      case 'paragraph':
        return `<p>${line(b.text)}</p>`;
      case 'list':
        return `<ul>${b.items.map((t) => `<li>${line(t)}</li>`).join('\n')}</ul>`;
      case 'steps':
        return `<ol>${b.items.map((t) => `<li>${line(t)}</li>`).join('\n')}</ol>`;
      case 'table':
        return table(b);
      case 'proof':
        return proofList(b.lines);
      case 'picture': {
        const svg = pictures[b.of];
        return svg === undefined ? '' : `<figure>${svg}<figcaption>${escaped(b.caption)}</figcaption></figure>`;
      }
    }
  };
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; img-src data:">
<title>${escaped(title)}</title>
<style>${STYLE}</style>
</head>
<body>
<main>
${blocks
  .map(printed)
  .filter((b) => b !== '')
  .join('\n')}
</main>
</body>
</html>
`;
}
