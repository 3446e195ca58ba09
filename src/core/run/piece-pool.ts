import { LevelGridError } from '../base';
import type { PieceEncoder, PieceResult, PieceTask } from '../formats';

/** A thread that encodes one piece at a time; Node and the browser each have their own kind. */
export interface PieceThread {
  /** Hands a piece over; its codes are moved, not copied. */
  post(task: PieceTask): void;
  /** True while a piece is under way: whether the thread may keep a program alive. */
  hold(busy: boolean): void;
  end(): void | Promise<void>;
}
/** Starts a thread that calls `done` with each result and `failed` when it dies. */
export type SpawnPieceThread = (done: (result: PieceResult) => void, failed: () => void) => PieceThread;

interface Job {
  readonly task: PieceTask;
  readonly resolve: (result: PieceResult) => void;
  readonly reject: (reason: unknown) => void;
}

/** A few threads that encode pieces of pictures; each takes the next piece when it is done with its own. */
export class PiecePool {
  private readonly threads: PieceThread[] = [];
  private readonly idle: PieceThread[] = [];
  private readonly queue: Job[] = [];
  private readonly busy = new Map<PieceThread, Job>();

  constructor(
    private readonly spawn: SpawnPieceThread,
    readonly size: number,
  ) {}

  readonly encode: PieceEncoder = (task) =>
    new Promise((resolve, reject) => {
      this.queue.push({ task, resolve, reject });
      if (this.idle.length === 0 && this.threads.length < this.size) this.start();
      this.pump();
    });

  private start(): void {
    const thread: PieceThread = this.spawn(
      (result) => {
        const job = this.busy.get(thread);
        this.busy.delete(thread);
        this.idle.push(thread);
        thread.hold(false);
        job?.resolve(result);
        this.pump();
      },
      () => this.fail(thread),
    );
    thread.hold(false);
    this.threads.push(thread);
    this.idle.push(thread);
  }

  private pump(): void {
    while (this.queue.length > 0) {
      const thread = this.idle.pop();
      if (!thread) return;
      const job = this.queue.shift() as Job;
      this.busy.set(thread, job);
      thread.hold(true);
      thread.post(job.task);
    }
  }

  /** A dead thread is taken out; what it was working on, and what waits, is given up. */
  private fail(thread: PieceThread): void {
    const error = new LevelGridError('internal', {
      found: 'an encoding thread that stopped',
      expected: 'it to finish its work',
      remedy: 'Nothing was written. Try again; close other programs if memory is short.',
    });
    for (const list of [this.threads, this.idle]) if (list.includes(thread)) list.splice(list.indexOf(thread), 1);
    this.busy.get(thread)?.reject(error);
    this.busy.delete(thread);
    for (const job of this.queue.splice(0)) job.reject(error);
  }

  /** Pieces under way; none once a job has ended. */
  get underWay(): number {
    return this.busy.size + this.queue.length;
  }

  async end(): Promise<void> {
    for (const thread of this.threads.splice(0)) await thread.end();
    this.idle.length = 0;
  }
}
