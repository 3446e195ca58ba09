import { Worker } from 'node:worker_threads';
import { LevelGridError, type ErrorRecord, type InflatedWhole, type SourceThread } from '../../core/base';
import { readingThreadDied } from '../../core/formats';

export interface InflateRequest {
  readonly id: number;
  readonly file: string;
  readonly format: string;
  readonly memory: SharedArrayBuffer;
}
export type InflateAnswer =
  { readonly id: number; readonly whole: InflatedWhole | null } | { readonly id: number; readonly error: ErrorRecord };

interface Waiting {
  readonly resolve: (whole: InflatedWhole | null) => void;
  readonly reject: (reason: unknown) => void;
}

/**
 * A thread of Node that runs `script` (inflate-worker.ts, bundled), started when first needed, for any number of files.
 * An idle one does not keep the program alive; one that died is replaced.
 */
export function nodeInflateThread(script: string): (file: string) => SourceThread {
  const waiting = new Map<number, Waiting>();
  let worker: Worker | null = null;
  let last = 0;

  const start = (): Worker => {
    const fresh = new Worker(script);
    fresh.on('message', (answer: InflateAnswer) => {
      const one = waiting.get(answer.id);
      waiting.delete(answer.id);
      if (waiting.size === 0) fresh.unref();
      if ('whole' in answer) one?.resolve(answer.whole);
      else one?.reject(LevelGridError.fromRecord(answer.error));
    });
    fresh.on('error', () => {
      worker = null;
      const error = readingThreadDied();
      for (const one of waiting.values()) one.reject(error);
      waiting.clear();
    });
    return fresh;
  };

  return (file) => ({
    inflate: (format, memory) =>
      new Promise((resolve, reject) => {
        worker ??= start();
        worker.ref();
        const id = ++last;
        waiting.set(id, { resolve, reject });
        worker.postMessage({ id, file, format, memory } satisfies InflateRequest);
      }),
  });
}
