'use client';
import { useMemo, useRef, useState } from 'react';
import { besides, bestRungs, componentsOf, inventedShare, keptShare, ladder, rungAt, type Rung } from '@/core/grid';
import { percent } from '@/core/plan';
import type { Recipe } from '@/core/recipe';
import { targetOf } from '@/core/targets';

export interface LadderProps {
  readonly target: Recipe['target'];
  /** Samples per side of the source. */
  readonly samples: number;
  /** Vertices per side taken; of one tile. */
  readonly value: number;
  readonly onPick: (vertices: number) => void;
  readonly method: 'resample' | 'crop' | 'pad';
  /** The artist's own ceiling. */
  readonly atMost?: number | undefined;
  /** Which sides it is for. */
  readonly label?: string;
}

const HEIGHT = 236;
const STAFF = 104;

/** Height of a letter. */
const LETTER = 20;

/**
 * The rungs that are lettered, and where: the one taken and the well-worn ones next to the source always, moved apart
 * where they would hide each other; other well-worn ones where there is room.
 */
function letters(
  visible: readonly Rung[],
  wellWorn: readonly number[],
  samples: number,
  value: number,
  y: (rung: Rung) => number,
): { rung: Rung; at: number }[] {
  const worn = visible.filter((r) => wellWorn.includes(r.vertices));
  const below = worn.filter((r) => r.vertices <= samples).at(-1);
  const above = worn.find((r) => r.vertices > samples);
  const always = visible.filter((r) => r.vertices === value || r === below || r === above);
  // larger sizes stand higher
  const placed = [...always].reverse().map((rung) => ({ rung, at: Math.max(LETTER / 2, y(rung)) }));
  placed.forEach((p, i) => {
    const over = placed[i - 1];
    if (over) p.at = Math.max(p.at, over.at + LETTER);
  });
  let floor = HEIGHT - LETTER / 2;
  for (const p of [...placed].reverse()) {
    p.at = Math.min(p.at, floor);
    floor = p.at - LETTER;
  }
  for (const rung of [...worn].reverse()) {
    const at = y(rung);
    if (at >= LETTER / 2 && at <= HEIGHT - LETTER / 2 && placed.every((p) => Math.abs(p.at - at) >= LETTER))
      placed.push({ rung, at });
  }
  return placed;
}

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

/** What a size that is being typed would do to the ground; which ones are next to it where the target does not take it. */
export function sidePreview(
  target: Recipe['target'],
  vertices: number,
  samples: number,
  method: LadderProps['method'],
): string {
  const rule = targetOf(target);
  const rung = rungAt(rule.grid, vertices, samples);
  if (rung) return effect(rung, method, samples);
  return `not taken by the target; next to it ${besides(rule.grid, vertices).join(' and ')}`;
}

/**
 * The sizes that the target accepts on a logarithmic staff: well-worn ones lettered, the others as ticks, the source as
 * a pointer beside them. Arrow keys step through every rung.
 */
export function SizeLadder({
  target,
  samples,
  value,
  onPick,
  method,
  atMost,
  label = 'Vertices per side',
}: LadderProps) {
  const rule = targetOf(target);
  const rungs = useMemo(() => ladder(rule.grid, samples, rule.budgets), [rule, samples]);
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
  const lettered = letters(visible, rule.wellWorn, samples, value, (r) => y(r.vertices));
  const near = (clientY: number): Rung | undefined => {
    const box = staff.current?.getBoundingClientRect();
    if (!box) return undefined;
    const py = clientY - box.top;
    return [...visible].sort((a, b) => Math.abs(y(a.vertices) - py) - Math.abs(y(b.vertices) - py))[0];
  };
  const told = rungs.find((r) => r.vertices === (hover ?? value)) ?? rungAt(rule.grid, value, samples);
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
        aria-valuetext={told && hover === null ? inFull(told, method, samples) : `${value} per side`}
        className="relative select-none cursor-pointer"
        style={{ height: HEIGHT }}
        onKeyDown={(e) => {
          const end = { Home: rungs[0], End: rungs.at(-1) }[e.key];
          if (end) {
            e.preventDefault();
            onPick(end.vertices);
            return;
          }
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
          {lettered.map(({ rung, at }) => (
            <path
              key={rung.vertices}
              d={`M${STAFF + 15} ${y(rung.vertices)}L${STAFF + 20} ${at}`}
              className="stroke-ink fill-none"
              strokeWidth="0.7"
            />
          ))}
          {atMost !== undefined && y(atMost) > 0 && y(atMost) < HEIGHT && (
            <path d={`M${STAFF - 6} ${y(atMost)}H${STAFF + 21}`} className="stroke-ochre" strokeWidth="2.5" />
          )}
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
        {lettered.map(({ rung: r, at }) => (
          <span
            key={r.vertices}
            className={`absolute flex justify-between right-0 px-1.5 leading-[20px] ${r.vertices === value ? 'bg-ink text-panel' : ''}`}
            style={{ left: STAFF + 20, top: at - LETTER / 2 }}
          >
            <span className="num text-[13px]">{r.vertices}</span>
            <span className={`text-[13px] ${r.vertices === value ? '' : 'text-quiet'}`}>
              {r.vertices > (atMost ?? Infinity)
                ? 'over ceiling'
                : r.vertices > rule.budgets.verticesAdvised
                  ? 'over budget'
                  : effect(r, method, samples)}
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
