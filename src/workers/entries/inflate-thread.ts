import * as Comlink from 'comlink';
import { LEAST_FOR_THREAD, LevelGridError, type ByteSource } from '../../core/base';
import { readingThreadDied } from '../../core/formats';
import { blobSource } from '../../io/browser';
import type { InflateWorker } from '../protocol';

interface Thread {
  readonly remote: Comlink.Remote<InflateWorker>;
  readonly died: Promise<never>;
}
let thread: Thread | null = null;

/** The thread that inflates for this one; a new one after it died. */
function started(): Thread {
  if (thread) return thread;
  const worker = new Worker(new URL('./inflate.ts', import.meta.url), { type: 'module' });
  const died = new Promise<never>((_, reject) => {
    worker.onerror = () => {
      thread = null;
      reject(readingThreadDied());
    };
  });
  died.catch(() => undefined);
  return (thread = { remote: Comlink.wrap<InflateWorker>(worker), died });
}

/** Lets the thread start before it is needed. */
export const readyInflateThread = (): void => void started();

/** A blob as a source that two threads share where it is large. */
export function sharedSource(blob: Blob, name: string): ByteSource {
  const source = blobSource(blob, name);
  if (blob.size < LEAST_FOR_THREAD) return source;
  return {
    ...source,
    thread: {
      inflate: async (format, memory) => {
        const { remote, died } = started();
        const outcome = await Promise.race([remote.inflate(blob, name, format, memory), died]);
        if (outcome.ok) return outcome.value;
        throw LevelGridError.fromRecord(outcome.error);
      },
    },
  };
}
