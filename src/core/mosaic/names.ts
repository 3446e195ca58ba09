/** The numbers in the names of tiles that tell their place: which they are, and what stands in front of them. */
export interface NumberedNames {
  /** Two numbers of each name, in the order in which they stand. */
  readonly pairs: readonly (readonly [number, number])[];
  /** By the letters in front of them the first is the column; null where these say nothing. */
  readonly columnFirst: boolean | null;
}

const stemOf = (name: string): string => name.replace(/\.[^.]*$/, '').toLowerCase();

/**
 * Two numbers by which names differ, and nothing else: `fells-r02c03`, `fells_x3_y2`, `tile_3_2`. Null where names differ
 * otherwise, or in more or fewer numbers.
 */
export function numbersIn(names: readonly string[]): NumberedNames | null {
  const split = names.map((name) => stemOf(name).split(/(\d+)/));
  const [first] = split;
  if (!first || split.some((s) => s.length !== first.length)) return null;
  const varying: number[] = [];
  for (let i = 0; i < first.length; i++) {
    const same = split.every((s) => (i % 2 === 1 ? Number(s[i]) === Number(first[i]) : s[i] === first[i]));
    if (same) continue;
    // text that differs is no number
    if (i % 2 === 0) return null;
    varying.push(i);
  }
  // a single row or column of tiles: the number that stays is the one beside it
  const numbers = [...first.keys()].filter((i) => i % 2 === 1);
  if (varying.length === 1 && numbers.length >= 2) {
    const [one = 1] = varying;
    const at = numbers.indexOf(one);
    varying.splice(0, 1, ...(at > 0 ? [numbers[at - 1]!, one] : [one, numbers[at + 1]!]));
  }
  const [a, b] = varying;
  if (varying.length !== 2 || a === undefined || b === undefined) return null;
  const pairs = split.map((s) => [Number(s[a]), Number(s[b])] as const);
  if (new Set(pairs.map((p) => p.join())).size < pairs.length) return null;
  return { pairs, columnFirst: columnFirst(first[a - 1] ?? '', first[b - 1] ?? '') };
}

/** What the letters in front of two numbers say. */
function columnFirst(a: string, b: string): boolean | null {
  const kind = (text: string): 'column' | 'row' | null => {
    const word = /([a-z]+)[^a-z]*$/.exec(text)?.[1] ?? '';
    if (/^(x|c|col|column|e|east)$/.test(word)) return 'column';
    return /^(y|r|row|n|north|s|south)$/.test(word) ? 'row' : null;
  };
  const [first, second] = [kind(a), kind(b)];
  if (first === second) return null;
  return first === 'column' || second === 'row';
}
