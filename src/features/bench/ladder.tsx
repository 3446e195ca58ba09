'use client';
import { useMemo, useRef, useState } from 'react';
import { bestRungs, componentsOf, inventedShare, keptShare, ladder, type Rung } from '@/core/grid';
import { percent } from '@/core/plan';
import { targetById } from '@/core/targets';

export interface LadderProps {
  readonly target: string;
  /** Samples per side of the source. */
  readonly samples: number;
  /** Vertices per side taken; of one tile. */
  readonly value: number;
  readonly onPick: (vertices: number) => void;
  readonly method: 'resample' | 'crop' | 'pad';
  /** Which sides it is for. */
  readonly label?: string;
}

const HEIGHT = 236;
const STAFF = 104;

/** What a rung does to the ground, in a few characters. */
function effect(rung: Rung, method: LadderProps['method'], samples: number): string {
  if (rung.vertices === samples) return 'exact';
  if (method === 'pad' && rung.rim > 0) return `rim ${rung.rim}`;
  if (method === 'crop' && rung.rim > 0) return 'too large';
  if (method !== 'resample') return `cuts ${rung.cut}`;
  return rung.upsampling > 1
    ? `invents ${percent(inventedShare(rung.upsampling))}`
    : `keeps ${percent(keptShare(rung.upsampling), 1)}`;
}

/** The same in full: share kept, share invented, components. */
function inFull(rung: Rung, method: LadderProps['method'], samples: number): string {
  const n = componentsOf(rung);
  const components = n > 0 ? `; ${n} ${n === 1 ? 'component' : 'components'} where both sides are alike` : '';
  if (rung.vertices === samples) return `${rung.vertices}: exact, no sample changes${components}.`;
  if (method !== 'resample')
    return `${rung.vertices}: ${effect(rung, method, samples)} of ${samples} samples${components}.`;
  const kept =
    rung.upsampling < 1
      ? `keeps ${percent(keptShare(rung.upsampling), 1)} of the samples a side`
      : 'keeps every sample';
  const invented =
    rung.upsampling > 1 ? `invents ${percent(inventedShare(rung.upsampling), 1)} of the vertices` : 'invents nothing';
  return `${rung.vertices}: ${kept}, ${invented}${components}.`;
}

/**
 * The sizes that the target accepts on a logarithmic staff: well-worn ones lettered, the others as ticks, the source as
 * a pointer beside them. Arrow keys step through every rung.
 */
export function SizeLadder({ target, samples, value, onPick, method, label = 'Vertices per side' }: LadderProps) {
  const rule = targetById(target);
  const rungs = useMemo(() => ladder(rule.grid, samples, rule.budgets.components), [rule, samples]);
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
  const told = rungs.find((r) => r.vertices === (hover ?? value));
  const sy = Math.max(6, Math.min(HEIGHT - 6, y(samples)));
  return (
    <div>
      <div
        ref={staff}
        role="slider"
        tabIndex={0}
        aria-label={label}
        aria-orientation="vertical"
        aria-valuemin={rungs[0]?.vertices}
        aria-valuemax={rungs.at(-1)?.vertices}
        aria-valuenow={value}
        aria-valuetext={told && hover === null ? inFull(told, method, samples) : `${value} vertices per side`}
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
              {r.vertices > rule.budgets.verticesAdvised ? 'over budget' : effect(r, method, samples)}
            </span>
          </span>
        ))}
      </div>
      <p className="text-[13px] leading-[17px] text-quiet min-h-[34px] mt-1.5" aria-hidden="true">
        {told ? inFull(told, method, samples) : 'Click a tick, or step through all sizes with the arrow keys.'}
      </p>
    </div>
  );
}
