import { LevelGridError } from './errors';

/** What a long piece of work is told, and tells: last parameter of everything that streams. */
export interface JobContext {
  /** Read once per band. An AbortSignal fits; a worker hands in a view on shared memory. */
  readonly signal?: { readonly aborted: boolean };
  /** Called once per band with work done and work in all, both in the same unit. */
  readonly report?: (done: number, total: number) => void;
}

/** Throws `cancelled` where the job was asked to stop. */
export function checkpoint(job: JobContext | undefined): void {
  if (job?.signal?.aborted) {
    throw new LevelGridError('cancelled', {
      found: 'a request to stop',
      expected: 'the job to run on',
      remedy: 'Nothing was changed. Start it again when you want to.',
    });
  }
}

/** A part of a job as a job: progress 0..total of the part becomes `from..to` of the whole (0..1000). */
export function partOf(job: JobContext | undefined, from: number, to: number): JobContext {
  const { signal, report } = job ?? {};
  return {
    ...(signal ? { signal } : {}),
    ...(report
      ? {
          report: (done: number, total: number) =>
            report(Math.round((from + ((to - from) * done) / Math.max(1, total)) * 1000), 1000),
        }
      : {}),
  };
}
