import { Maximize, Minus, Plus } from 'lucide-react';

export function ZoomButtons({ zoom, showAll }: { zoom: (factor: number) => void; showAll: () => void }) {
  return (
    <div className="absolute left-[54px] top-[30px] flex flex-col border border-ink bg-panel">
      {(
        [
          ['Zoom in', Plus, () => zoom(1.5)],
          ['Zoom out', Minus, () => zoom(1 / 1.5)],
          ['Show all', Maximize, showAll],
        ] as const
      ).map(([name, Icon, act]) => (
        <button
          key={name}
          type="button"
          aria-label={name}
          title={name}
          onClick={act}
          className="size-7 grid place-items-center border-b border-rule last:border-0 hover:bg-kelp-wash"
        >
          <Icon size={15} aria-hidden="true" />
        </button>
      ))}
    </div>
  );
}
