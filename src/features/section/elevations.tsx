'use client';
import { sum } from 'd3-array';
import { useMemo, useState } from 'react';
import { formatNumber, formatShort } from '@/core/base';
import { useSession } from '@/state';
import { usePlan } from '../hooks';
import { Plot } from './plot';

const CLASSES = 64;

/** How much of the fitted ground lies at which elevation: 64 classes from lowest to highest. */
export function Elevations({ width, height }: { width: number; height: number }) {
  const ground = useSession((s) => s.ground);
  const plan = usePlan();
  const [pointed, setPointed] = useState<number | null>(null);
  const { groundLow: low = null, groundHigh: high = null } = plan?.document.height ?? {};
  const shown = useMemo(() => {
    if (!ground || low === null || high === null) return null;
    const all = sum(ground.histogram) || 1;
    const fine = ground.histogram.length / CLASSES;
    const shares = Array.from(
      { length: CLASSES },
      (_, i) => (100 * sum(ground.histogram.slice(i * fine, (i + 1) * fine))) / all,
    );
    const step = (high - low) / CLASSES;
    const series = [
      {
        name: 'share of the ground',
        type: 'bar' as const,
        colour: 'kelp' as const,
        line: 0,
        points: shares.map((share, i) => [low + (i + 0.5) * step, share] as const),
      },
    ];
    const most = Math.max(...shares);
    return { shares, step, series, x: [low, high] as const, y: [0, most * 1.06] as const };
  }, [ground, low, high]);
  if (!shown || low === null || high === null)
    return <p className="px-4 py-3 text-quiet">The ground is being measured.</p>;
  const [from, to] = [formatShort(low, 1), formatShort(high, 1)];
  if (high === low) return <p className="px-4 py-3 text-quiet">All of the fitted ground lies at {from} m.</p>;
  const { shares, step, series, x, y } = shown;
  const bottomOf = (i: number): number => low + i * step;
  const chosen = pointed === null ? null : Math.min(CLASSES - 1, Math.floor((pointed - low) / step));
  // as many decimals as tell one class from the next
  const digits = Math.max(0, 1 - Math.floor(Math.log10(step)));
  const fullest = shares.indexOf(Math.max(...shares));
  return (
    <Plot
      width={width}
      height={height}
      x={x}
      y={y}
      series={series}
      numbers={[8, 3]}
      xText={(v) => `${formatShort(v, digits)} m`}
      yText={(v) => `${formatShort(v, 2)} %`}
      label={`Elevations of the fitted ground, from ${from} to ${to} metres, most of it near ${formatShort(bottomOf(fullest) + step / 2, 0)} metres`}
      onPoint={setPointed}
      pointed={
        chosen === null
          ? null
          : {
              x: bottomOf(chosen) + step / 2,
              text: `${formatNumber(bottomOf(chosen), digits)}–${formatNumber(bottomOf(chosen + 1), digits)} m: ${formatShort(shares[chosen] ?? 0, 2)} %`,
            }
      }
    />
  );
}
