'use client';
import { extent } from 'd3-array';
import { area, line } from 'd3-shape';
import { useEffect, useState } from 'react';
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

export function ProfilePlot({ profile, width, height }: { profile: Profile; width: number; height: number }) {
  const at = useSession((s) => s.sectionAt);
  const sea = usePlan()?.work.sea ?? null;
  const { source, result, length } = profile;
  const [low = 0, high = 0] = extent([...source, ...result]);
  const margin = (high - low) * 0.06 || 1;
  const [y0, y1] = [low - margin, high + margin];
  const along = (i: number): number => (i / (POINTS - 1)) * length;
  const index = at === null ? null : Math.round(at * (POINTS - 1));
  const text = index === null ? null : said(profile, index);
  return (
    <Plot
      width={width}
      height={height}
      x={[0, length]}
      y={[y0, y1]}
      numbers={[6, 5]}
      xText={(v) => (v === 0 ? 'A' : length >= 2000 ? `${formatShort(v / 1000, 2)} km` : `${formatShort(v, 1)} m`)}
      yText={(v) => formatShort(v, 1)}
      label={`Cross-section, ${formatLength(length)} long, from ${formatNumber(low, 1)} to ${formatNumber(high, 1)} metres`}
      onPoint={(x) => patchSession({ sectionAt: x === null || length === 0 ? null : x / length })}
      pointed={index === null || text === null ? null : { x: along(index), text }}
    >
      {(x, y) => {
        const pen = line<number>()
          .defined((v) => !Number.isNaN(v))
          .x((_, i) => x(along(i)))
          .y(y)
          .digits(1);
        const ground = area<number>()
          .defined((v) => !Number.isNaN(v))
          .x((_, i) => x(along(i)))
          .y0(y(y0))
          .y1(y)
          .digits(1);
        // somebody 1.7 m tall, where it can be seen
        const person = y(y0) - y(Math.min(y1, y0 + 1.7));
        return (
          <>
            <path d={ground(source) ?? ''} className="fill-kelp-wash" />
            {sea !== null && sea > y0 && sea < y1 && (
              <line
                x1={x(0)}
                x2={x(length)}
                y1={y(sea)}
                y2={y(sea)}
                className="stroke-ink"
                strokeDasharray="6 3"
                strokeWidth="1"
              />
            )}
            <path d={pen(source) ?? ''} fill="none" className="stroke-ink" strokeWidth="1.5" />
            <path d={pen(result) ?? ''} fill="none" className="stroke-kelp" strokeWidth="1.2" strokeDasharray="5 3" />
            {person >= 2 && y0 + 1.7 < y1 && (
              <rect
                x={x(0) + 6}
                y={y(y0) - person}
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
