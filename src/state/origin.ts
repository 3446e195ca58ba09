import { patchSession, useSession } from './session';
import { loadHandle, saveHandle } from './storage';

/** A file that was dropped knows its way back; several that were put together have none. */
function handleOf(file: File): FileSystemFileHandle | null {
  const { handle } = file as { handle?: unknown };
  return typeof FileSystemFileHandle !== 'undefined' && handle instanceof FileSystemFileHandle ? handle : null;
}

/** Notes where a source came from; what only was kept has lost its date. */
export async function noteOrigin(id: string, blob: Blob): Promise<void> {
  const { sourceKey } = useSession.getState();
  const file = blob instanceof File ? blob : null;
  const handle = file ? handleOf(file) : null;
  if (file) {
    const { name, size, lastModified } = file;
    patchSession({ origin: { name, size, modified: lastModified, handle }, changedOnDisk: false });
  }
  // nothing depends on it where nothing can be kept
  await saveHandle(id, handle).catch(() => undefined);
  if (useSession.getState().sourceKey === sourceKey) await lookForChange();
}

/** What is known of where a kept source came from. */
export async function recallOrigin(id: string, file: string, blob: Blob): Promise<void> {
  const { sourceKey } = useSession.getState();
  const handle = await loadHandle(id).catch(() => null);
  if (useSession.getState().sourceKey !== sourceKey) return;
  const modified = blob instanceof File ? blob.lastModified : 0;
  patchSession({ origin: { name: file, size: blob.size, modified, handle }, changedOnDisk: false });
  await lookForChange();
}

/** The file as it is now, where the browser lets it be read without asking, or `ask` lets it ask. */
export async function fileAgain(handle: FileSystemFileHandle, ask: boolean): Promise<File | null> {
  const reading = { mode: 'read' } as const;
  const asking = handle as FileSystemFileHandle & {
    queryPermission?(how: typeof reading): Promise<PermissionState>;
    requestPermission?(how: typeof reading): Promise<PermissionState>;
  };
  try {
    let state = (await asking.queryPermission?.(reading)) ?? 'granted';
    if (state !== 'granted' && ask) state = (await asking.requestPermission?.(reading)) ?? 'denied';
    return state === 'granted' ? await handle.getFile() : null;
  } catch {
    // it was moved or deleted
    return null;
  }
}

/** Looks whether the file of the open source has been changed on disk meanwhile; asks nobody. */
export async function lookForChange(): Promise<void> {
  const { origin, sourceKey } = useSession.getState();
  if (!origin?.handle) return;
  const now = await fileAgain(origin.handle, false);
  if (!now || useSession.getState().sourceKey !== sourceKey) return;
  const changed = now.size !== origin.size || (origin.modified !== 0 && now.lastModified !== origin.modified);
  if (changed !== useSession.getState().changedOnDisk) patchSession({ changedOnDisk: changed });
}

const PIECE = 4 << 20;

/** Whether two files hold the same bytes, all of them. */
export async function sameBytes(a: Blob, b: Blob): Promise<boolean> {
  if (a.size !== b.size) return false;
  for (let at = 0; at < a.size; at += PIECE) {
    const [x, y] = await Promise.all([a, b].map((f) => f.slice(at, at + PIECE).arrayBuffer()));
    const left = new Uint8Array(x!);
    const right = new Uint8Array(y!);
    if (left.length !== right.length) return false;
    for (let i = 0; i < left.length; i++) if (left[i] !== right[i]) return false;
  }
  return true;
}
