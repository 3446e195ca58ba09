'use client';
import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import { ChevronRight } from 'lucide-react';
import type { ReactNode } from 'react';

/** Something folded away until it is wanted. */
export function Fold({ title, children, open = false }: { title: string; children: ReactNode; open?: boolean }) {
  return (
    <Disclosure defaultOpen={open}>
      <DisclosureButton className="group flex items-center gap-1 h-7 text-quiet hover:text-ink">
        <ChevronRight size={14} aria-hidden="true" className="group-data-open:rotate-90" />
        {title}
      </DisclosureButton>
      <DisclosurePanel className="flex flex-col gap-2 pb-2">{children}</DisclosurePanel>
    </Disclosure>
  );
}
