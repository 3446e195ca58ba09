import { LevelGridError } from '../base';

export interface TileNumbers {
  readonly name: string;
  readonly col: number;
  readonly row: number;
  readonly index: number;
}

/** A project's name as the beginning of a file name: letters, digits, dot, dash and underline; the rest becomes a dash. */
export function fileNameOf(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^A-Za-z0-9._-]+/g, '-')
    .replace(/^[-.]+|[-.]+$/g, '');
  return plain === '' ? 'terrain' : plain;
}

/** Fills `{name}`, `{col}`, `{row}`, `{index}`; `{col:2}` pads with zeros to two digits. */
export function fillPattern(pattern: string, numbers: TileNumbers, refused: string): string {
  const filled = pattern.replace(/\{([a-z]+)(?::(\d))?\}/g, (whole, key: string, width?: string) => {
    const digits = Number(width ?? 0);
    switch (key) {
      case 'name':
        return numbers.name;
      case 'col':
        return String(numbers.col).padStart(digits, '0');
      case 'row':
        return String(numbers.row).padStart(digits, '0');
      case 'index':
        return String(numbers.index).padStart(digits, '0');
      default:
        throw new LevelGridError('file-name', {
          found: `${whole} in the file name pattern`,
          expected: '{name}, {col}, {row} or {index}, with a width like {col:2}',
          remedy: 'Correct the pattern.',
        });
    }
  });
  const bad = [...filled].find((c) => refused.includes(c) || c < ' ');
  if (bad !== undefined || filled.startsWith('.') || filled.endsWith(' ') || filled.endsWith('.')) {
    throw new LevelGridError('file-name', {
      found: bad === undefined ? `the file name "${filled}"` : `"${bad}" in the file name "${filled}"`,
      expected: 'a name that every system can store and the target can read',
      remedy: `Leave out ${[...refused].join(' ')}, and a dot or space at the ends.`,
    });
  }
  return filled;
}

/** The literal text straight before the first number of a pattern. */
const BEFORE_NUMBERS = /([^{}]*)\{(?:col|row|index)/;

/** A pattern without the characters that a target's importers misread before the column and row part. */
export function mendedPattern(pattern: string, refused: string): string {
  return pattern.replace(BEFORE_NUMBERS, (whole, text: string) => {
    const mended = [...text].map((c) => (refused.includes(c) ? '-' : c)).join('');
    return mended + whole.slice(text.length);
  });
}

/** Throws where a tile's name holds a character that the target's importers misread before the column and row part. */
export function checkPattern(pattern: string, refused: string): void {
  const mended = mendedPattern(pattern, refused);
  if (mended === pattern) return;
  const text = BEFORE_NUMBERS.exec(pattern)?.[1] ?? '';
  const bad = [...text].find((c) => refused.includes(c)) ?? '';
  throw new LevelGridError('file-name', {
    found: `"${bad}" before the column and row part in the pattern "${pattern}"`,
    expected: 'another sign there: importers of tiles for this target misread it',
    remedy: `Write "${mended}".`,
  });
}
