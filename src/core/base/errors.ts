import { shortNumber } from './text';

/**
 * The one error class of Level Grid. Its fields are what the interface and the command line show as they are:
 * which file, what was found, what was expected, and what to do about it.
 */
export const ERROR_CODES = [
  'cancelled',
  'empty-file',
  'unknown-format',
  'truncated',
  'checksum',
  'corrupt',
  'too-large',
  'unsupported',
  'raw-length',
  'raw-layout',
  'not-found',
  'unreadable',
  'unwritable',
  'busy',
  'in-the-way',
  'source-changed',
  'source-missing',
  'recipe-syntax',
  'recipe-version',
  'recipe-key',
  'recipe-value',
  'pack-document',
  'pack-file',
  'unknown-target',
  'size-not-on-ladder',
  'split-indivisible',
  'split-unequal',
  'file-name',
  'calibration',
  'mosaic',
  'step-order',
  'crop-outside',
  'no-extent',
  'voids',
  'usage',
  'internal',
] as const;
export type ErrorCode = (typeof ERROR_CODES)[number];

/** What an error is about: which file it names where several are at hand. None can be left out. */
const ABOUT: Readonly<Record<ErrorCode, 'source' | 'recipe' | 'else'>> = {
  cancelled: 'else',
  'empty-file': 'source',
  'unknown-format': 'source',
  truncated: 'source',
  checksum: 'source',
  corrupt: 'source',
  'too-large': 'source',
  unsupported: 'source',
  'raw-length': 'source',
  'raw-layout': 'source',
  'not-found': 'else',
  unreadable: 'source',
  unwritable: 'else',
  busy: 'else',
  'in-the-way': 'else',
  'source-changed': 'source',
  'source-missing': 'source',
  'recipe-syntax': 'recipe',
  'recipe-version': 'recipe',
  'recipe-key': 'recipe',
  'recipe-value': 'recipe',
  'pack-document': 'else',
  'pack-file': 'else',
  'unknown-target': 'recipe',
  'size-not-on-ladder': 'recipe',
  'split-indivisible': 'recipe',
  'split-unequal': 'recipe',
  'file-name': 'recipe',
  calibration: 'recipe',
  mosaic: 'source',
  'step-order': 'recipe',
  'crop-outside': 'recipe',
  'no-extent': 'source',
  voids: 'source',
  usage: 'else',
  internal: 'else',
};

/** The same error naming the file of the recipe where it is the recipe that is at fault. */
export function namingRecipe(error: LevelGridError, recipe: string): LevelGridError {
  if (ABOUT[error.code] !== 'recipe') return error;
  const { code, found, expected, remedy, cause } = error;
  return new LevelGridError(code, { file: recipe, found, expected, remedy, ...(cause === undefined ? {} : { cause }) });
}

export interface ErrorFields {
  /** Base name of the file concerned, or null where no file is. */
  readonly file?: string | null;
  readonly found: string;
  readonly expected: string;
  readonly remedy: string;
  /** What it came from, where something else failed first. */
  readonly cause?: unknown;
}

export interface ErrorRecord {
  readonly code: ErrorCode;
  readonly message: string;
  readonly file: string | null;
  readonly found: string;
  readonly expected: string;
  readonly remedy: string;
  /** What it came from, for those who look for the fault: the words of system and engine. */
  readonly details?: string;
}

/** Details are cut behind so many signs. */
const MOST_DETAILS = 4000;

function detailsOf(cause: unknown): string | undefined {
  if (cause === undefined) return undefined;
  const text = cause instanceof Error ? (cause.stack ?? cause.message) : (JSON.stringify(cause) ?? typeof cause);
  return text.slice(0, MOST_DETAILS);
}

export class LevelGridError extends Error {
  override readonly name = 'LevelGridError';
  readonly file: string | null;
  readonly found: string;
  readonly expected: string;
  readonly remedy: string;
  readonly details: string | undefined;

  constructor(
    readonly code: ErrorCode,
    fields: ErrorFields & Pick<ErrorRecord, 'details'>,
  ) {
    const file = fields.file ?? null;
    super(
      `${file === null ? '' : `${file}: `}found ${fields.found}; expected ${fields.expected}. ${fields.remedy}`,
      fields.cause === undefined ? undefined : { cause: fields.cause },
    );
    this.file = file;
    this.found = fields.found;
    this.expected = fields.expected;
    this.remedy = fields.remedy;
    this.details = fields.details ?? detailsOf(fields.cause);
  }

  /** A plain object with every field, for JSON and for the way across a worker boundary. */
  toRecord(): ErrorRecord {
    const { code, message, file, found, expected, remedy, details } = this;
    return { code, message, file, found, expected, remedy, ...(details === undefined ? {} : { details }) };
  }

  static fromRecord(record: ErrorRecord): LevelGridError {
    return new LevelGridError(record.code, record);
  }

  /** The same error, told of another file (a reader does not know the name its bytes came under). */
  inFile(file: string): LevelGridError {
    return new LevelGridError(this.code, { ...this.toRecord(), file, cause: this.cause });
  }
}

/**
 * Any thrown value as a typed error. What is not ours becomes `internal`: one sentence with a number that is the same
 * for the same fault; the engine's own words are in its details.
 */
export function asLevelGridError(reason: unknown, doing: string, file?: string): LevelGridError {
  if (reason instanceof LevelGridError)
    return reason.file === null && file !== undefined ? reason.inFile(file) : reason;
  return new LevelGridError('internal', {
    file: file ?? null,
    found: `an unexpected fault while ${doing}`,
    expected: 'the step to finish',
    remedy: `Your files are unchanged. Try again; if it stays, report fault ${faultNumber(reason, doing)} and what you did.`,
    cause: reason,
  });
}

/** Numbers in the message differ from time to time; what was done and where it broke don't. */
function faultNumber(reason: unknown, doing: string): string {
  const { name, message } =
    reason instanceof Error ? reason : { name: typeof reason, message: JSON.stringify(reason) ?? '' };
  return shortNumber(`${doing}|${name}|${message.replace(/\d+/g, '#')}`);
}
