import { LevelGridError, type ErrorCode } from './errors';
import { formatBytes } from './units';

export interface JsonLimits {
  /** UTF-16 units, which for what these documents hold are bytes. */
  readonly length: number;
  /** Objects and lists inside one another. */
  readonly depth: number;
}

/** What a document is called in messages, and the code of its errors. */
export interface JsonKind {
  readonly words: string;
  readonly code: ErrorCode;
  readonly limits: JsonLimits;
  readonly remedy: string;
}

/** How deep objects and lists lie in JSON text; strings are left out, whatever they hold. */
function depthOf(text: string, most: number): number {
  let depth = 0;
  let deepest = 0;
  for (let i = 0; i < text.length && deepest <= most; i++) {
    const c = text.charCodeAt(i);
    if (c === 0x22) {
      for (i++; i < text.length && text.charCodeAt(i) !== 0x22; i++) if (text.charCodeAt(i) === 0x5c) i++;
    } else if (c === 0x5b || c === 0x7b) deepest = Math.max(deepest, ++depth);
    else if (c === 0x5d || c === 0x7d) depth--;
  }
  return deepest;
}

/** JSON text from outside as a value. Throws, before anything is built, where it is longer or deeper than its kind may be. */
export function parseJson(text: string, kind: JsonKind, file: string | null): unknown {
  const { words, code, limits, remedy } = kind;
  if (text.length > limits.length)
    throw new LevelGridError(code, {
      file,
      found: `a ${words} of ${formatBytes(text.length)}`,
      expected: `at most ${formatBytes(limits.length)}`,
      remedy,
    });
  if (depthOf(text, limits.depth) > limits.depth)
    throw new LevelGridError(code, {
      file,
      found: `a ${words} whose lists lie more than ${limits.depth} deep in one another`,
      expected: `a ${words} as Level Grid writes it`,
      remedy,
    });
  try {
    // some editors put a byte order mark in front
    return JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (cause) {
    throw new LevelGridError(code, {
      file,
      found: /\bNaN\b|\bInfinity\b/.test(text)
        ? 'NaN or Infinity, which are no numbers that JSON can hold'
        : 'text that is not JSON',
      expected: `a ${words} as JSON`,
      remedy,
      cause,
    });
  }
}
