'use client';
import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from '@headlessui/react';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';

/** A sheet over the page, closed by Escape, by its cross or by a click beside it. */
export function Sheet({
  open,
  title,
  onClose,
  children,
  width = 'max-w-lg',
}: {
  open: boolean;
  title: string;
  onClose: () => void;
  children: ReactNode;
  width?: string;
}) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-50">
      <DialogBackdrop className="fixed inset-0 bg-ink/35 dark:bg-black/55" />
      <div className="fixed inset-0 grid place-items-center p-6">
        <DialogPanel className={`w-full ${width} max-h-full overflow-auto bg-panel text-ink border border-ink`}>
          <div className="flex items-center justify-between border-b border-rule px-4 h-11">
            <DialogTitle className="font-semibold text-[15px]">{title}</DialogTitle>
            <button type="button" onClick={onClose} aria-label="Close" className="p-1 text-quiet hover:text-ink">
              <X size={16} aria-hidden="true" />
            </button>
          </div>
          <div className="p-4">{children}</div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
