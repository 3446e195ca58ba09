import { Worker } from 'node:worker_threads';
import { LevelGridError } from '../../core/base';
import type { PieceEncoder, PieceResult, PieceTask } from '../../core/formats';

interface Job {
  readonly task: PieceTask;
  resolve(result: PieceResult): void;
  reject(reason: unknown): void;
}

/** A few threads that encode pieces of pictures; each takes the next piece when it is done with its own. */
export class NodePiecePool {
  private readonly threads: Worker[] = [];
  private readonly idle: Worker[] = [];
  private readonly queue: Job[] = [];
  private readonly busy = new Map<Worker, Job>();

  constructor(
    private readonly script: string,
    readonly size: number,
  ) {}

  readonly encode: PieceEncoder = (task) =>
    new Promise((resolve, reject) => {
      this.queue.push({ task, resolve, reject });
      if (this.idle.length === 0 && this.threads.length < this.size) this.start();
      this.pump();
    });

  private start(): void {
    const thread = new Worker(this.script);
    // a pool that waits must not keep the program alive
    thread.unref();
    this.threads.push(thread);
    this.idle.push(thread);
    thread.on('message', (result: PieceResult) => {
      const job = this.busy.get(thread);
      this.busy.delete(thread);
      this.idle.push(thread);
      job?.resolve(result);
      this.pump();
    });
    thread.on('error', () => this.fail());
  }

  private pump(): void {
    while (this.idle.length > 0 && this.queue.length > 0) {
      const thread = this.idle.pop()!;
      const job = this.queue.shift()!;
      this.busy.set(thread, job);
      thread.ref();
      thread.postMessage(job.task, [job.task.codes.buffer as ArrayBuffer]);
    }
    for (const thread of this.idle) thread.unref();
  }

  private fail(): void {
    const error = new LevelGridError('internal', {
      found: 'an encoding thread that stopped',
      expected: 'it to finish its work',
      remedy: 'Nothing was written. Try again; close other programs if memory is short.',
    });
    for (const job of [...this.busy.values(), ...this.queue.splice(0)]) job.reject(error);
    this.busy.clear();
  }

  async end(): Promise<void> {
    await Promise.all(this.threads.map((t) => t.terminate()));
  }
}
