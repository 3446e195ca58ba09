import { hiddenSign, LevelGridError } from '../base';

export interface TileNumbers {
  readonly name: string;
  readonly col: number;
  readonly row: number;
  readonly index: number;
}

/** Names that stand for devices on some systems, with any ending. */
const DEVICES = /^(con|prn|aux|nul|com\d|lpt\d)$/i;
/** Longest beginning of a file name, and longest name in bytes: disks hold 255, and numbers and endings come to it. */
const MOST_SIGNS = 80;
const MOST_BYTES = 200;

/**
 * A project's name as the beginning of a file name: letters, digits, dot, dash and underline; the rest becomes a dash.
 * What is a device on some systems gets a word behind it.
 */
export function fileNameOf(name: string): string {
  const plain = name
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/[^A-Za-z0-9._-]+/g, '-')
    .replace(/^[-.]+/, '')
    .slice(0, MOST_SIGNS)
    .replace(/[-.]+$/, '');
  const [stem = ''] = plain.split('.');
  if (plain === '') return 'terrain';
  return DEVICES.test(stem) ? `${stem}-terrain${plain.slice(stem.length)}` : plain;
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
  const hidden = hiddenSign(filled) ?? loneSurrogate(filled);
  if (hidden !== null && hidden !== undefined) {
    throw new LevelGridError('file-name', {
      found: `a sign that can’t be seen (U+${hidden.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}) in a file name`,
      expected: 'a name of signs that can be seen',
      remedy: 'Type the pattern again.',
    });
  }
  if (DEVICES.test(filled.split('.')[0] ?? '') || new TextEncoder().encode(filled).length > MOST_BYTES) {
    throw new LevelGridError('file-name', {
      found:
        filled.length > MOST_BYTES / 4
          ? `a file name of ${filled.length} signs`
          : `the file name "${filled}", which is a device on some systems`,
      expected: `a name of at most ${MOST_BYTES} bytes that every system can hold`,
      remedy: 'Change the pattern or the name of the project.',
    });
  }
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

/** Half of a pair of code units that stands alone: no encoding can hold it. Null where there is none. */
function loneSurrogate(text: string): string | null {
  return [...text].find((sign) => sign.length === 1 && sign >= '\ud800' && sign <= '\udfff') ?? null;
}
