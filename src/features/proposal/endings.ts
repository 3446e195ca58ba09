/** What tells names apart: all of them where they are short, else their ends; else a number each. */
export function endings(names: readonly string[]): string[] {
  const stems = names.map((n) => n.replace(/\.[^.]*$/, ''));
  if (stems.every((n) => n.length <= MOST_SIGNS)) return stems;
  const [first = '', ...others] = stems;
  let from = first.length;
  for (const name of others) while (!name.startsWith(first.slice(0, from))) from--;
  // a number is not cut in two
  while (from > 0 && /\d/.test(first[from - 1] ?? '')) from--;
  const ends = stems.map((n) => n.slice(from));
  return ends.every((e) => e.length > 0 && e.length <= MOST_SIGNS) ? ends : names.map((_, i) => String(i + 1));
}
const MOST_SIGNS = 7;
