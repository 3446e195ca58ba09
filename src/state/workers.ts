import { asLevelGridError } from '../core/base';
import { WorkerClient } from '../workers/client';
import { patchSession } from './session';

let client: WorkerClient | null = null;
let onDeath = (): void => undefined;

/** The workers of this page, started when first needed. */
export const workers = (): WorkerClient =>
  (client ??= new WorkerClient(() => {
    client?.end();
    client = null;
    onDeath();
  }));

/** What is done after the death of a worker, when others can take its place. */
export function whenWorkersDie(act: () => void): void {
  onDeath = act;
}

/** Shows an error; nothing else changes. */
export function showError(reason: unknown, doing: string): void {
  const error = asLevelGridError(reason, doing);
  if (error.code === 'cancelled') return;
  patchSession({ error: error.toRecord() });
}
