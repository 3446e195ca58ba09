import { asLevelGridError, type JobContext } from '../../core/base';
import type { Outcome, ReportWire, StopFlag } from '../protocol';

/** Runs a piece of work and hands back its result or its typed error. */
export async function outcome<T>(doing: string, work: () => Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (reason) {
    return { ok: false, error: asLevelGridError(reason, doing).toRecord() };
  }
}

/** Progress is told at most this often. */
const REPORT_EVERY_MS = 50;

/** The job context of the core over what came across the worker boundary. */
export function jobOf(stop: StopFlag, report: ReportWire): JobContext {
  let last = 0;
  return {
    signal: {
      get aborted() {
        return stop !== null && Atomics.load(stop, 0) === 1;
      },
    },
    report: (done, total) => {
      const now = performance.now();
      if (now - last < REPORT_EVERY_MS && done < total) return;
      last = now;
      report?.(done, total);
    },
  };
}
