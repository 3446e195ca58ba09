/** The tables of a Markdown page by the heading above them; cells unescaped and trimmed. */
export function tablesOf(text: string): Map<string, string[][]> {
  const tables = new Map<string, string[][]>();
  let heading = '';
  for (const line of text.split('\n')) {
    const title = /^#+\s+(.*)$/.exec(line);
    if (title) heading = (title[1] ?? '').trim();
    else if (line.startsWith('|')) {
      const rows = tables.get(heading) ?? [];
      rows.push(cellsOf(line));
      tables.set(heading, rows);
    }
  }
  // without the head and the rule below it
  for (const [name, rows] of tables) tables.set(name, rows.slice(2));
  return tables;
}

function cellsOf(line: string): string[] {
  const cells: string[] = [];
  let cell = '';
  for (let i = 1; i < line.length; i++) {
    const sign = line[i] as string;
    if (sign === '\\' && i + 1 < line.length) cell += line[++i] as string;
    else if (sign === '|') {
      cells.push(cell.trim());
      cell = '';
    } else cell += sign;
  }
  return cells;
}

/** Numbers as they are printed, with groups of three and a long minus: `41 500.63, −7`; null for anything else. */
export function numbersOf(cell: string): number[] | null {
  const parts = cell.split(',').map((part) => part.replace(/[\s\u00a0]/g, '').replace(/−/g, '-'));
  const numbers = parts.map((part) => (/^-?\d+(\.\d+)?$/.test(part) ? Number(part) : NaN));
  return numbers.some((n) => Number.isNaN(n)) ? null : numbers;
}
