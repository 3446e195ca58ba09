'use client';
import { useMemo, useRef, useState } from 'react';
import { bestRungs, inventedShare, ladder, type Rung } from '@/core/grid';
import { targetById } from '@/core/targets';
import { formatShort } from '@/core/base';

export interface LadderProps {
  readonly target: string;
  /** Samples per side of the source. */
  readonly samples: number;
  /** Vertices per side taken; of one tile. */
  readonly value: number;
  readonly onPick: (vertices: number) => void;
  readonly method: 'resample' | 'crop' | 'pad';
}

const HEIGHT = 236;
const STAFF = 104;

/** What a rung does to the ground, in a few characters. */
function effect(rung: Rung, method: LadderProps['method']): string {
  if (method === 'pad' && rung.rim > 0) return `rim ${rung.rim}`;
  if (method === 'crop' && rung.rim > 0) return 'too large';
  if (method !== 'resample') return rung.cut > 0 ? `cuts ${rung.cut}` : 'exact';
  if (rung.upsampling > 1.02) return `invents ${formatShort(inventedShare(rung.upsampling) * 100, 0)} %`;
  return rung.layouts[0]
    ? `${rung.layouts[0].components ** 2} components`
    : rung.cut > 0
      ? `keeps ${formatShort(rung.upsampling * 100, 0)} %`
      : 'exact';
}

/**
 * The sizes that the target accepts on a logarithmic staff: well-worn ones lettered, the others as ticks, the source as
 * a pointer beside them. Arrow keys step through every rung.
 */
export function SizeLadder({ target, samples, value, onPick, method }: LadderProps) {
  const rule = targetById(target);
  const rungs = useMemo(() => ladder(rule.grid, samples), [rule, samples]);
  const best = useMemo(() => new Set(bestRungs(rungs, 3).map((r) => r.vertices)), [rungs]);
  const [hover, setHover] = useState<number | null>(null);
  const staff = useRef<HTMLDivElement>(null);
  const shown = rungs.filter(
    (r) =>
      r.vertices <= rule.budgets.verticesAdvised * 1.05 &&
      r.vertices >= Math.min(120, rungs.at(-1)?.vertices ?? 120) / 4,
  );
  const low = Math.log(Math.max(shown[0]?.vertices ?? 32, Math.min(samples, value) / 6));
  const high = Math.log(shown.at(-1)?.vertices ?? 8129);
  const y = (n: number): number => HEIGHT - 10 - ((Math.log(n) - low) / (high - low || 1)) * (HEIGHT - 20);
  const visible = shown.filter((r) => Math.log(r.vertices) >= low - 1e-9);
  const at = rungs.findIndex((r) => r.vertices === value);
  const step = (by: number): void => {
    const next = at < 0 ? rungs.findIndex((r) => r.vertices > value) : at + by;
    const rung = rungs[Math.max(0, Math.min(rungs.length - 1, next))];
    if (rung) onPick(rung.vertices);
  };
  // letters that would overlap give way to the taken one, then to the best filled, then to the larger
  const lettered: Rung[] = [];
  const wish = (r: Rung): number => (r.vertices === value ? 0 : best.has(r.vertices) ? 1 : 2);
  for (const r of visible
    .filter((v) => rule.wellWorn.includes(v.vertices) || v.vertices === value)
    .sort((a, b) => wish(a) - wish(b) || b.vertices - a.vertices)) {
    if (lettered.every((l) => Math.abs(y(l.vertices) - y(r.vertices)) >= 20)) lettered.push(r);
  }
  const near = (clientY: number): Rung | undefined => {
    const box = staff.current?.getBoundingClientRect();
    if (!box) return undefined;
    const py = clientY - box.top;
    return [...visible].sort((a, b) => Math.abs(y(a.vertices) - py) - Math.abs(y(b.vertices) - py))[0];
  };
  const hovered = hover === null ? undefined : rungs.find((r) => r.vertices === hover);
  const sy = Math.max(6, Math.min(HEIGHT - 6, y(samples)));
  return (
    <div>
      <div
        ref={staff}
        role="slider"
        tabIndex={0}
        aria-label="Vertices per side"
        aria-orientation="vertical"
        aria-valuemin={rungs[0]?.vertices}
        aria-valuemax={rungs.at(-1)?.vertices}
        aria-valuenow={value}
        aria-valuetext={`${value} vertices per side`}
        className="relative select-none cursor-pointer"
        style={{ height: HEIGHT }}
        onKeyDown={(e) => {
          const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          step(by);
        }}
        onPointerMove={(e) => setHover(near(e.clientY)?.vertices ?? null)}
        onPointerLeave={() => setHover(null)}
        onClick={(e) => {
          const rung = near(e.clientY);
          if (rung) onPick(rung.vertices);
        }}
      >
        <svg width="100%" height={HEIGHT} aria-hidden="true" className="absolute inset-0">
          <rect x={STAFF} y="0.5" width="15" height={HEIGHT - 1} className="fill-panel stroke-ink" />
          {visible.map((r) => (
            <line
              key={r.vertices}
              x1={STAFF}
              x2={STAFF + (rule.wellWorn.includes(r.vertices) ? 15 : best.has(r.vertices) ? 11 : 6)}
              y1={y(r.vertices)}
              y2={y(r.vertices)}
              className={r.vertices === hover ? 'stroke-kelp' : 'stroke-ink'}
              strokeWidth={r.vertices === hover ? 2.5 : rule.wellWorn.includes(r.vertices) ? 1.4 : 0.7}
            />
          ))}
          <path d={`M0 ${sy}H${STAFF - 7}`} className="stroke-kelp" strokeWidth="1.6" />
          <path d={`M${STAFF - 8} ${sy - 4.5}l8 4.5-8 4.5z`} className="fill-kelp" />
        </svg>
        <span className="absolute left-0 text-kelp" style={sy > 40 ? { top: sy - 20 } : { top: sy + 3 }}>
          source <span className="num text-[13px]">{samples}</span>
        </span>
        {sy > 70 && (
          <span className="absolute left-0 top-0 text-quiet text-[13px] leading-4 w-24">↑ detail invented</span>
        )}
        {sy < HEIGHT - 70 && (
          <span className="absolute left-0 bottom-0 text-quiet text-[13px] leading-4 w-24">↓ detail lost</span>
        )}
        {lettered.map((r) => (
          <span
            key={r.vertices}
            className={`absolute flex justify-between right-0 px-1.5 leading-[20px] ${r.vertices === value ? 'bg-ink text-panel' : ''}`}
            style={{ left: STAFF + 19, top: y(r.vertices) - 10 }}
          >
            <span className="num text-[13px]">{r.vertices}</span>
            <span className={`text-[13px] ${r.vertices === value ? '' : 'text-quiet'}`}>
              {r.vertices > rule.budgets.verticesAdvised ? 'over budget' : effect(r, method)}
            </span>
          </span>
        ))}
      </div>
      <p className="text-[13px] leading-[17px] text-quiet h-[34px] overflow-hidden" aria-hidden="true">
        {hovered && hovered.vertices !== value
          ? `${hovered.vertices}: ${effect(hovered, method)}${
              hovered.layouts[0]
                ? `, ${hovered.layouts
                    .map((l) => `${l.components} × ${l.components} of ${l.patches} × ${l.patches} × ${l.quads}`)
                    .slice(0, 2)
                    .join(' or ')}`
                : ''
            }`
          : 'Click a tick, or step through all sizes with the arrow keys.'}
      </p>
    </div>
  );
}
