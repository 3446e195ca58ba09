'use client';
import { useEffect, useRef, useState } from 'react';
import { asLevelGridError, formatLength, formatNumber, formatShort } from '@/core/base';
import type { Comparison, Difference } from '@/core/compare';
import { compareFiles, decideProposal, type Proposal } from '@/state';
import { Button } from '@/ui';

/** Data sets of the same ground: ranked, with reasons, and where they differ. */
export function Candidates({ proposal }: { proposal: Proposal }) {
  const [found, setFound] = useState<Comparison | { readonly words: string } | null>(null);
  useEffect(() => {
    let wanted = true;
    compareFiles(proposal).then(
      (comparison) => {
        if (wanted) setFound(comparison);
      },
      (reason: unknown) => {
        const { file, found: what, remedy } = asLevelGridError(reason, 'comparing the files');
        if (wanted) setFound({ words: `${file ?? ''}: found ${what}. ${remedy}` });
      },
    );
    return () => {
      wanted = false;
    };
  }, [proposal]);
  if (!found) return <p className="text-quiet">Reading all of them.</p>;
  if ('words' in found) return <p>{found.words}</p>;
  const { ranked, differences, side, made } = found;
  return (
    <div className="flex flex-col gap-3">
      <ol aria-label="Best first" className="flex flex-col">
        {ranked.map((f, i) => (
          <li key={f.name} className="flex items-start gap-3 border-b border-rule py-2">
            <span className="num w-5 shrink-0">{i + 1}.</span>
            <div className="min-w-0 grow">
              <p className="font-semibold break-words">{f.name}</p>
              <p className="num text-[13px]">
                {f.width} × {f.height}
                {f.spacing !== null && `, ${formatLength(f.spacing)} apart`}
                {f.low !== null &&
                  f.high !== null &&
                  `, ${formatShort(f.low, 1)} to ${formatShort(f.high, 1)}${f.metres ? ' m' : ''}`}
              </p>
              <p className="text-quiet">{sentence(f.reasons)}</p>
            </div>
            <Button kind={i === 0 ? 'solid' : 'line'} onClick={() => void decideProposal({ only: f.name })}>
              Take this one
            </Button>
          </li>
        ))}
      </ol>
      {made && (
        <p>
          {made.name} is made of {made.of.map((p) => `${formatShort(100 * p.share, 1)} % ${p.name}`).join(' and ')}.
        </p>
      )}
      {differences.map((d) => (
        <DifferenceRow key={d.of[1]} difference={d} side={side} metres={ranked.every((f) => f.metres)} />
      ))}
    </div>
  );
}

const sentence = ([first = '', ...others]: readonly string[]): string =>
  `${[first.charAt(0).toUpperCase() + first.slice(1), ...others].join('; ')}.`;

function DifferenceRow({ difference: d, side, metres }: { difference: Difference; side: number; metres: boolean }) {
  const unit = metres ? ' m' : '';
  return (
    <div className="flex gap-3 items-start">
      <DifferenceMap difference={d} side={side} />
      <p>
        {d.of[1]} against {d.of[0]}
        {d.fitted ? ' (laid on it by a factor and a shift)' : ''}: {formatShort(d.mean, 2)}
        {unit} on the average, {formatShort(d.largest, 2)}
        {unit} at most, where the ring is; the same at {formatNumber(100 * d.same, 1)} % of the places. Dark is lower,
        light higher than {d.of[0]}.
      </p>
    </div>
  );
}

/** Pixels of a map of differences. */
const WIDE = 128;

function DifferenceMap({ difference: { map, largest, at }, side }: { difference: Difference; side: number }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const ctx = canvas.current?.getContext('2d');
    if (!ctx) return;
    const image = ctx.createImageData(WIDE, WIDE);
    const step = side / WIDE;
    for (let y = 0; y < WIDE; y++)
      for (let x = 0; x < WIDE; x++) {
        const d = map[Math.floor((y + 0.5) * step) * side + Math.floor((x + 0.5) * step)]!;
        // small differences are seen beside large ones
        const share = d !== d ? NaN : Math.sign(d) * Math.sqrt(Math.abs(d) / (largest || 1));
        const grey = share !== share ? 255 : Math.round(128 + 120 * share);
        image.data.set([grey, grey, grey, 255], (y * WIDE + x) * 4);
      }
    ctx.putImageData(image, 0, 0);
  }, [map, largest, side]);
  const [x, y] = [at[0] * WIDE, at[1] * WIDE];
  return (
    <div className="relative shrink-0 border border-ink">
      <canvas ref={canvas} width={WIDE} height={WIDE} aria-hidden="true" />
      {largest > 0 && (
        <svg className="absolute inset-0" width={WIDE} height={WIDE} aria-hidden="true">
          <circle cx={x} cy={y} r={7} fill="none" className="stroke-panel" strokeWidth={4} />
          <circle cx={x} cy={y} r={7} fill="none" className="stroke-ink" strokeWidth={1.5} />
        </svg>
      )}
    </div>
  );
}
