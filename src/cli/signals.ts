import { LevelGridError } from '../core/base';

/*
 * How a command ends before its time: a signal, or a pipe that nobody reads any more. The job is asked to stop and tidies
 * up; asked twice, the process ends at once, with what can be done in that moment.
 */
const SIGNALS = { SIGINT: 130, SIGTERM: 143, SIGHUP: 129 } as const;

let asked: keyof typeof SIGNALS | 'EPIPE' | null = null;
const last = new Set<() => void>();

/** Read by jobs once per band. */
export const stopSignal = {
  get aborted(): boolean {
    return asked !== null;
  },
};

/** Exit code of a process that was asked to end; null where it was not. */
export function signalExitCode(): number | null {
  if (asked === null) return null;
  return asked === 'EPIPE' ? 141 : SIGNALS[asked];
}

/** Why the job stopped, in a sentence. */
export function signalError(): LevelGridError {
  return new LevelGridError('cancelled', {
    found: asked === 'EPIPE' ? 'a pipe that nobody reads any more' : `the signal ${asked ?? ''}`,
    expected: 'the command to run to its end',
    remedy: 'Nothing was changed: what lay in the folder is as it was.',
  });
}

/** Something to do at once where there is no time for more. Returns a way to take it back. */
export function onExit(act: () => void): () => void {
  last.add(act);
  return () => last.delete(act);
}

/** Hears of signals and closed pipes from now on. */
export function listenForSignals(): void {
  for (const [signal, code] of Object.entries(SIGNALS)) {
    process.on(signal, () => {
      if (asked !== null) {
        for (const act of last) act();
        process.exit(code);
      }
      asked = signal as keyof typeof SIGNALS;
    });
  }
  for (const stream of [process.stdout, process.stderr])
    stream.on('error', (reason: NodeJS.ErrnoException) => {
      if (reason.code === 'EPIPE') asked ??= 'EPIPE';
    });
}
