'use client';
import { extent } from 'd3-array';
import { useEffect, useMemo, useState } from 'react';
import { formatLength, formatNumber, formatShort } from '@/core/base';
import type { Profile } from '@/core/view';
import { patchSession, useSession, workers } from '@/state';
import { useCurrentRecipe, usePlan } from '../hooks';
import { useSectionLine } from './line';
import { Plot } from './plot';

const POINTS = 640;

/** The profile of source and result along the line on the map; kept up to date as the line or the recipe moves. */
export function useProfile(): Profile | null {
  const sourceKey = useSession((s) => s.sourceKey);
  const [section] = useSectionLine();
  const held = useSession((s) => s.held);
  const recipe = useCurrentRecipe();
  const work = usePlan()?.work;
  const [profile, setProfile] = useState<Profile | null>(null);
  useEffect(() => {
    if (!held || sourceKey === null || !section || !recipe || !work) return;
    let wanted = true;
    void workers()
      .profile(sourceKey, recipe, work, section.a, section.b, POINTS)
      .then((p) => {
        // a stage that is still being made has none yet
        if (wanted && p) setProfile(p);
      });
    return () => {
      wanted = false;
    };
  }, [sourceKey, section, held, recipe, work]);
  // a profile of what was open before says nothing about what is open now
  return section ? profile : null;
}

/** Elevation at a point of the profile, as a sentence: source, and result where there is one. */
function said({ source, result }: Profile, i: number): string | null {
  const [before = NaN, after = NaN] = [source[i], result[i]];
  if (Number.isNaN(before)) return null;
  return `${formatNumber(before, 2)} m${Number.isNaN(after) ? '' : ` → ${formatNumber(after, 2)} m`}`;
}

/** What is plotted of a profile; the same for as long as it is the same profile. */
function useSeries({ source, result, length }: Profile) {
  return useMemo(() => {
    const [low = 0, high = 0] = extent([...source, ...result]);
    const margin = (high - low) * 0.06 || 1;
    const points = (of: ArrayLike<number>) =>
      Array.from({ length: of.length }, (_, i): readonly [number, number | null] => {
        const value = of[i]!;
        return [(i / (POINTS - 1)) * length, Number.isNaN(value) ? null : value];
      });
    const series = [
      { name: 'ground', type: 'area', colour: 'kelp-wash', line: 0, points: points(source) },
      { name: 'source', type: 'line', colour: 'ink', line: 1.5, points: points(source) },
      { name: 'result', type: 'line', colour: 'kelp', line: 1.2, dashed: true, points: points(result) },
    ] as const;
    return { low, high, x: [0, length] as const, y: [low - margin, high + margin] as const, series };
  }, [source, result, length]);
}

export function ProfilePlot({ profile, width, height }: { profile: Profile; width: number; height: number }) {
  const at = useSession((s) => s.sectionAt);
  const sea = usePlan()?.work.sea ?? null;
  const { length } = profile;
  const { low, high, x, y, series } = useSeries(profile);
  const [y0, y1] = y;
  const index = at === null ? null : Math.round(at * (POINTS - 1));
  const text = index === null ? null : said(profile, index);
  return (
    <Plot
      width={width}
      height={height}
      x={x}
      y={y}
      series={series}
      numbers={[6, 5]}
      xText={(v) => (v === 0 ? 'A' : length >= 2000 ? `${formatShort(v / 1000, 2)} km` : `${formatShort(v, 1)} m`)}
      yText={(v) => formatShort(v, 1)}
      label={`Cross-section, ${formatLength(length)} long, from ${formatNumber(low, 1)} to ${formatNumber(high, 1)} metres`}
      onPoint={(at) => patchSession({ sectionAt: at === null || length === 0 ? null : at / length })}
      pointed={index === null || text === null ? null : { x: (index / (POINTS - 1)) * length, text }}
    >
      {(across, up) => {
        // somebody 1.7 m tall, where it can be seen
        const person = up(y0) - up(Math.min(y1, y0 + 1.7));
        return (
          <>
            {sea !== null && sea > y0 && sea < y1 && (
              <line
                x1={across(0)}
                x2={across(length)}
                y1={up(sea)}
                y2={up(sea)}
                className="stroke-ink"
                strokeDasharray="6 3"
                strokeWidth="1"
              />
            )}
            {person >= 2 && y0 + 1.7 < y1 && (
              <rect
                x={across(0) + 6}
                y={up(y0) - person}
                width={Math.max(2, person / 3)}
                height={person}
                className="fill-ink"
              />
            )}
          </>
        );
      }}
    </Plot>
  );
}
