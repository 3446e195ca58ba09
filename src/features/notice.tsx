'use client';
import { useEffect } from 'react';
import { toast, Toaster } from 'sonner';
import { patchSession, useSession } from '@/state';
import { Button, tied } from '@/ui';

/** The only one: a second one takes its place. */
const ID = 'notice';
const close = (): void => patchSession({ notice: null });

/** What happened meanwhile and needs no answer; it stays until it has been read. */
export function Notice() {
  const notice = useSession((s) => s.notice);
  useEffect(() => {
    if (notice === null) toast.dismiss(ID);
    else toast.custom(() => <Words>{tied(notice)}</Words>, { id: ID, duration: Infinity, onDismiss: close });
  }, [notice]);
  // above the line of the work that is going on
  return <Toaster position="bottom-right" offset={{ bottom: 216, right: 8 }} mobileOffset={{ bottom: 96 }} />;
}

function Words({ children }: { readonly children: string }) {
  return (
    <div
      role="status"
      className="bg-panel text-ink border border-ink flex items-start gap-3 px-3 py-2 max-w-[min(440px,calc(100vw-16px))]"
    >
      <p>{children}</p>
      <Button kind="link" onClick={close}>
        Close
      </Button>
    </div>
  );
}
