'use client';
import type { ReactNode } from 'react';
import { tiedChildren } from '@/ui';

/** The head of a bench: the step's name and one sentence on what it does here and now. */
export function BenchHead({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div>
      <h2 className="font-semibold text-[16px]">{title}</h2>
      <p className="text-quiet">{tiedChildren(children)}</p>
    </div>
  );
}

export function Group({ title, aside, children }: { title: string; aside?: ReactNode; children: ReactNode }) {
  return (
    <section className="flex flex-col gap-2">
      <div className="flex items-baseline justify-between">
        <h3 className="font-semibold">{title}</h3>
        {aside !== undefined && <span className="text-quiet text-[13px]">{aside}</span>}
      </div>
      {children}
    </section>
  );
}

export function Hint({ children }: { children: ReactNode }) {
  return <p className="text-[13px] leading-[17px] text-quiet">{tiedChildren(children)}</p>;
}
