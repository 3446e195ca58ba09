import { proofList, PROOF_BEGIN, PROOF_END } from './html';
import { proofMarkdown } from './markdown';

/** What a page says before its pack was proved. */
export const UNPROVED = 'Not proved when this page was written.';

const HEADING = '## Proof\n\n';

/** A page of a pack with the result of its proof; unchanged where it has no place for one. */
export function withProofMarkdown(page: string, lines: readonly string[]): string {
  const from = page.indexOf(HEADING);
  if (from < 0) return page;
  const start = from + HEADING.length;
  const end = page.indexOf('\n\n## ', start);
  if (end < 0) return page;
  return page.slice(0, start) + proofMarkdown(lines) + page.slice(end);
}

export function withProofHtml(page: string, lines: readonly string[]): string {
  const from = page.indexOf(PROOF_BEGIN);
  const end = page.indexOf(PROOF_END);
  return from < 0 || end < from ? page : page.slice(0, from) + proofList(lines) + page.slice(end + PROOF_END.length);
}

/** The pages of a pack that tell what its proof found, and how each is told. */
export const PROOF_PAGES = [
  ['import.md', withProofMarkdown],
  ['import.html', withProofHtml],
] as const;
