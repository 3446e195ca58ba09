import { LevelGridError } from '../core/base';
import type { Running } from '../workers/client';
import { patchSession, useSession } from './session';

let count = 0;

/** Shows work that begins; the one before is given up. Hands back its identity. */
export function showJob(label: string, cancel: () => void): number {
  const id = ++count;
  patchSession({ job: { id, label, progress: 0, started: Date.now(), cancel } });
  return id;
}

export const isJob = (id: number): boolean => useSession.getState().job?.id === id;

export function showProgress(id: number, progress: number): void {
  const { job } = useSession.getState();
  if (job?.id === id) patchSession({ job: { ...job, progress } });
}

export function endJob(id: number): void {
  if (isJob(id)) patchSession({ job: null });
}

/** The error of work whose result nobody waits for any more. */
export const cancelledError = (): LevelGridError =>
  new LevelGridError('cancelled', {
    found: 'work that was given up',
    expected: 'its end',
    remedy: 'Start it again.',
  });

/** Does one piece of work at a time, with progress. Where another took its place the result is dropped. */
export async function asJob<T>(
  label: string,
  start: (report: (done: number, total: number) => void) => Running<T>,
): Promise<T> {
  useSession.getState().job?.cancel();
  let id = 0;
  const running = start((done, total) => showProgress(id, done / total));
  id = showJob(label, running.cancel);
  try {
    const result = await running.done;
    // a worker that can't be stopped in the middle hands over what nobody waits for any more
    if (!isJob(id)) throw cancelledError();
    return result;
  } finally {
    endJob(id);
  }
}
