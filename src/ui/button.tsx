import type { ButtonHTMLAttributes } from 'react';

export type ButtonKind = 'solid' | 'line' | 'plain' | 'link';
const KINDS: Record<ButtonKind, string> = {
  solid: 'bg-kelp text-on-kelp font-semibold px-3 h-7 hover:brightness-110 disabled:opacity-45',
  line: 'border border-strong px-2.5 h-7 hover:border-ink disabled:text-quiet disabled:border-rule bg-panel',
  plain: 'px-2 h-7 text-quiet hover:text-ink disabled:opacity-40',
  link: 'min-h-6 text-kelp underline decoration-1 underline-offset-2 hover:decoration-2',
};

export function Button({
  kind = 'line',
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { kind?: ButtonKind }) {
  return (
    <button
      type="button"
      className={`inline-flex items-center gap-1.5 rounded-[2px] whitespace-nowrap ${KINDS[kind]} ${className}`}
      {...rest}
    />
  );
}
