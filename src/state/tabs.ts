import * as z from 'zod';
import { patchSession, useSession } from './session';

/*
 * Of several tabs one edits: it holds a lock. The others follow what it keeps, or take over by a click; nobody writes
 * over another in silence.
 */
const LOCK = 'level-grid/editing';
const CHANNEL = 'level-grid/tabs';
/** A page that was reloaded may hold the lock for a moment longer: only one that keeps it is another tab. */
const FOLLOW_AFTER_MS = 500;

const message = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('saved'), id: z.string() }),
  z.object({ kind: z.literal('deleted'), id: z.string() }),
]);
type Message = z.infer<typeof message>;

let channel: BroadcastChannel | null = null;

/** Tells the other tabs. */
export function announceChange(what: Message): void {
  channel?.postMessage(what);
}

interface Follow {
  /** The open project was kept anew by the tab that edits. */
  readonly saved: (id: string) => void;
  readonly deleted: (id: string) => void;
  /** This tab edits from now on. */
  readonly promoted: () => void;
}

/**
 * Waits for the lock in the queue; the tab edits as soon as it has it, and until it closes or another takes over.
 * `begun` is called when it has it.
 */
function edit(options: LockOptions, follow: Follow, begun?: () => void): void {
  navigator.locks
    .request(LOCK, options, () => {
      const followed = useSession.getState().following;
      patchSession({ following: false });
      begun?.();
      if (followed) follow.promoted();
      // held for as long as the tab lives
      return new Promise<void>(() => undefined);
    })
    .catch(() => {
      // another tab took it
      patchSession({ following: true });
      edit({}, follow);
    });
}

/** Finds out whether this tab edits or follows. Where the browser has no locks every tab edits, as a single one does. */
export async function joinTabs(follow: Follow): Promise<void> {
  if (typeof navigator === 'undefined' || !('locks' in navigator) || typeof BroadcastChannel === 'undefined') return;
  channel = new BroadcastChannel(CHANNEL);
  channel.onmessage = ({ data }: MessageEvent<unknown>) => {
    const told = message.safeParse(data);
    if (!told.success) return;
    if (told.data.kind === 'deleted') follow.deleted(told.data.id);
    else if (useSession.getState().following) follow.saved(told.data.id);
  };
  takeOver = () => edit({ steal: true }, follow);
  await new Promise<void>((decided) => {
    const later = setTimeout(() => {
      patchSession({ following: true });
      decided();
    }, FOLLOW_AFTER_MS);
    edit({}, follow, () => {
      clearTimeout(later);
      decided();
    });
  });
}

let takeOver = (): void => undefined;

/** Edits here from now on; the other tab follows. */
export const editHere = (): void => takeOver();
