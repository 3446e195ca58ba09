import cliProgress from 'cli-progress';
import { manyLines, oneLine, type ErrorRecord, type JobContext } from '../core/base';
import { stopSignal } from './signals';

/** What a command hands back: one JSON document, readable text for people, and whether all is well. */
export interface CommandResult {
  readonly json: unknown;
  readonly text: string;
  readonly fine: boolean;
}

/** Columns padded to their widest cell; numbers to the right. */
export function table(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const widths = head.map((h, i) => Math.max(h.length, ...rows.map((r) => (r[i] ?? '').length)));
  const numeric = head.map((_, i) => rows.length > 0 && rows.every((r) => /^[−-]?[\d  .,×%]*$/.test(r[i] ?? '')));
  const line = (cells: readonly string[]): string =>
    cells
      .map((c, i) => (numeric[i] ? c.padStart(widths[i] ?? 0) : c.padEnd(widths[i] ?? 0)))
      .join('  ')
      .trimEnd();
  return [line(head), widths.map((w) => '─'.repeat(w)).join('  '), ...rows.map(line)].join('\n');
}

/** A progress bar on stderr, only where somebody watches. */
export async function withProgress<T>(label: string, work: (job: JobContext) => Promise<T>): Promise<T> {
  if (!process.stderr.isTTY) return work({ signal: stopSignal });
  const bar = new cliProgress.SingleBar({
    format: `${label} {bar} {percentage} % · {eta_formatted} left`,
    stream: process.stderr,
    hideCursor: true,
    clearOnComplete: true,
  });
  bar.start(1000, 0);
  try {
    return await work({
      signal: stopSignal,
      report: (done, total) => bar.update(Math.round((1000 * done) / Math.max(1, total))),
    });
  } finally {
    bar.stop();
  }
}

/** An error as people read it; with `verbose` also what it came from. */
export function errorText(error: ErrorRecord, verbose = false): string {
  const { file, found, expected, remedy, details } = error;
  return [
    `${file === null ? '' : `${oneLine(file)}: `}found ${oneLine(found)}; expected ${oneLine(expected)}.`,
    oneLine(remedy),
    ...(verbose && details !== undefined ? [`Details: ${details}`] : []),
  ].join('\n');
}

/** Prints text for people. What steers a terminal never reaches one, wherever it came from. */
export const say = (stream: NodeJS.WriteStream, text: string): void => {
  stream.write(`${manyLines(text)}\n`);
};

/** Prints one JSON document. */
export const sayJson = (value: unknown): void => {
  process.stdout.write(`${oneLine(JSON.stringify(value))}\n`);
};

const STATES = {
  holds: '■ holds  ',
  note: '– note   ',
  caution: '◧ caution',
  fault: '⧄ fault  ',
  'not-yet': '□ not yet',
} as const;

export function checkLines(checks: readonly { state: keyof typeof STATES; message: string }[]): string {
  const order = ['fault', 'caution', 'not-yet', 'note', 'holds'];
  return [...checks]
    .sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state))
    .map((c) => `${STATES[c.state]}  ${c.message}`)
    .join('\n');
}
