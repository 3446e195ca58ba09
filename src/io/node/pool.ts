import { Worker } from 'node:worker_threads';
import type { PieceResult } from '../../core/formats';
import type { SpawnPieceThread } from '../../core/run';

/** Threads of Node that run `script` (piece-worker.ts, bundled). An idle one does not keep the program alive. */
export const nodePieceThread =
  (script: string): SpawnPieceThread =>
  (done, failed) => {
    const thread = new Worker(script);
    thread.on('message', (result: PieceResult) => done(result));
    thread.on('error', failed);
    return {
      post: (task) => thread.postMessage(task, [task.codes.buffer as ArrayBuffer]),
      hold: (busy) => (busy ? thread.ref() : thread.unref()),
      end: async () => {
        await thread.terminate();
      },
    };
  };
