import { randomUUID } from 'node:crypto';
import { open, readFile, rm, stat } from 'node:fs/promises';
import { readFileSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { LevelGridError } from '../../core/base';
import { writeFault } from './faults';

/** The file that keeps two runs out of one folder. */
export const LOCK = '.level-grid-lock';

interface Holder {
  readonly token: string;
  readonly pid: number;
  readonly host: string;
  /** When its process began, so that another process under the same number is not taken for it. */
  readonly began: string;
  /** When it took the lock. */
  readonly since: string;
}

/** Where the system says it: the moment a process began, in its own ticks; empty elsewhere. */
function beginOf(pid: number): string {
  try {
    // the 22nd field; the second may hold spaces and ends with the last bracket
    return readFileSync(`/proc/${pid}/stat`, 'latin1').split(') ').pop()?.split(' ')[19] ?? '';
  } catch {
    return '';
  }
}

/** True unless it is certain that the process is gone. */
function alive({ pid, host, began }: Holder): boolean {
  if (host !== os.hostname()) return true;
  try {
    process.kill(pid, 0);
  } catch (reason) {
    return (reason as NodeJS.ErrnoException).code === 'EPERM';
  }
  const now = beginOf(pid);
  return now === '' || began === '' || now === began;
}

function holderOf(text: string): Holder | null {
  try {
    const value = JSON.parse(text) as Partial<Holder> | null;
    return typeof value?.token === 'string' && typeof value.pid === 'number' && typeof value.host === 'string'
      ? { began: '', since: '', ...value, token: value.token, pid: value.pid, host: value.host }
      : null;
  } catch {
    return null;
  }
}

/** A held lock. */
export interface Lock {
  readonly token: string;
  release(): Promise<void>;
  /** For the last moment of a process. */
  releaseNow(): void;
}

/** How often a lock that was given up by a dead process is tried to be taken over. */
const TRIES = 20;

/**
 * Takes the lock of a folder. A lock whose process is gone is taken over; one that is held says by whom and since when.
 */
export async function takeLock(directory: string): Promise<Lock> {
  const file = path.join(directory, LOCK);
  const me: Holder = {
    token: randomUUID(),
    pid: process.pid,
    host: os.hostname(),
    began: beginOf(process.pid),
    since: new Date().toISOString(),
  };
  for (let tried = 0; tried < TRIES; tried++) {
    try {
      const handle = await open(file, 'wx');
      await handle.writeFile(JSON.stringify(me));
      await handle.close();
      const mine = (): boolean => {
        try {
          return holderOf(readFileSync(file, 'utf8'))?.token === me.token;
        } catch {
          return false;
        }
      };
      return {
        token: me.token,
        release: async () => {
          if (mine()) await rm(file, { force: true });
        },
        releaseNow: () => {
          if (mine()) rmSync(file, { force: true });
        },
      };
    } catch (reason) {
      if ((reason as NodeJS.ErrnoException).code !== 'EEXIST') throw writeFault(reason, path.basename(directory));
    }
    const text = await readFile(file, 'utf8').catch(() => null);
    if (text === null) continue;
    const holder = holderOf(text);
    if (holder && alive(holder)) throw busy(directory, holder);
    await takeAway(file, text);
  }
  throw busy(directory, null);
}

/** Longer than this nobody takes to look twice and remove a file. */
const GUARD_MS = 5000;

/** Removes a lock that nobody holds any more; of several that see it, one at a time looks again and does so. */
async function takeAway(file: string, seen: string): Promise<void> {
  const guard = `${file}.taking`;
  const handle = await open(guard, 'wx').catch(() => null);
  if (!handle) {
    const age = await stat(guard).then(
      (s) => Date.now() - s.mtimeMs,
      () => 0,
    );
    if (age > GUARD_MS) await rm(guard, { force: true });
    await new Promise((resolve) => setTimeout(resolve, 30));
    return;
  }
  try {
    // one that is just being written has another text a moment later
    if (!holderOf(seen)) await new Promise((resolve) => setTimeout(resolve, 50));
    if ((await readFile(file, 'utf8').catch(() => null)) === seen) await rm(file, { force: true });
  } finally {
    await handle.close();
    await rm(guard, { force: true });
  }
}

function busy(directory: string, holder: Holder | null): LevelGridError {
  const since = holder ? new Date(holder.since) : null;
  const when = since && !Number.isNaN(since.getTime()) ? ` since ${since.toLocaleTimeString()}` : '';
  return new LevelGridError('busy', {
    file: path.basename(directory),
    found: holder
      ? `a folder that process ${holder.pid} on ${holder.host} is writing${when}`
      : 'a folder that others keep taking',
    expected: 'a folder that nobody else is writing',
    remedy: 'Wait until it is done, or choose another folder.',
  });
}
