'use client';
import { useEffect, useState, type ComponentType } from 'react';
import { formatLength, formatNumber, formatShort } from '@/core/base';
import type { Profile } from '@/core/view';
import { patchSession, useSession, workers } from '@/state';
import { Button, ticks, useSize, Tabs } from '@/ui';
import { useCurrentRecipe, usePlan } from '../hooks';
import { paneClass } from '../panes';

/** The elevations, whose drawing is loaded when it is first asked for; where it can't be, a message stands in its place. */
function Elevations({ height }: { height: number }) {
  const [Histogram, setHistogram] = useState<ComponentType<{ height: number }> | null>(null);
  const [tries, setTries] = useState(1);
  const [failed, setFailed] = useState(0);
  useEffect(() => {
    import('./histogram').then(
      (loaded) => setHistogram(() => loaded.default),
      () => setFailed(tries),
    );
  }, [tries]);
  if (Histogram) return <Histogram height={height} />;
  if (failed < tries) return <p className="px-4 py-3 text-quiet">Being loaded.</p>;
  return (
    <div role="alert" className="px-4 py-3 flex flex-col gap-2 items-start">
      <p>The elevations can’t be shown: a part of Level Grid could not be loaded. Is it still running?</p>
      <Button onClick={() => setTries(tries + 1)}>Try again</Button>
    </div>
  );
}

const POINTS = 640;
const LEFT = 52;
const RIGHT = 16;
const TOP = 8;
const BOTTOM = 20;

/** The profile of source and result along the line on the map; kept up to date as the line or the recipe moves. */
function useProfile(): Profile | null {
  const sourceKey = useSession((s) => s.sourceKey);
  const section = useSession((s) => s.section);
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
        if (wanted) setProfile(p);
      });
    return () => {
      wanted = false;
    };
  }, [sourceKey, section, held, recipe, work]);
  // a profile of what was open before says nothing about what is open now
  return section ? profile : null;
}

function ProfilePlot({ profile, width, height }: { profile: Profile; width: number; height: number }) {
  const at = useSession((s) => s.sectionAt);
  const sea = usePlan()?.work.sea ?? null;
  const valid = [...profile.source, ...profile.result].filter((v) => !Number.isNaN(v));
  const low = Math.min(...valid);
  const high = Math.max(...valid);
  const margin = (high - low) * 0.06 || 1;
  const y0 = low - margin;
  const y1 = high + margin;
  const w = width - LEFT - RIGHT;
  const h = height - TOP - BOTTOM;
  const px = (i: number): number => LEFT + (i / (POINTS - 1)) * w;
  const py = (v: number): number => TOP + (1 - (v - y0) / (y1 - y0)) * h;
  const path = (values: Float32Array): string => {
    let d = '';
    let pen = false;
    for (let i = 0; i < values.length; i++) {
      const v = values[i] ?? NaN;
      if (Number.isNaN(v)) pen = false;
      else {
        d += `${pen ? 'L' : 'M'}${px(i).toFixed(1)} ${py(v).toFixed(1)}`;
        pen = true;
      }
    }
    return d;
  };
  const source = path(profile.source);
  const index = at === null ? null : Math.round(at * (POINTS - 1));
  const metresPerPixel = { x: profile.length / w, y: (y1 - y0) / h };
  const person = 1.7 / metresPerPixel.y;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`Cross-section, ${formatLength(profile.length)} long, from ${formatNumber(low, 1)} to ${formatNumber(high, 1)} metres`}
      onPointerMove={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        const t = (e.clientX - box.left - LEFT) / w;
        patchSession({ sectionAt: t >= 0 && t <= 1 ? t : null });
      }}
      onPointerLeave={() => patchSession({ sectionAt: null })}
      className="block num text-[12px]"
    >
      {ticks(y0, y1, 5).map((t) => (
        <g key={t}>
          <line x1={LEFT} x2={width - RIGHT} y1={py(t)} y2={py(t)} className="stroke-rule" strokeWidth="1" />
          <text x={LEFT - 6} y={py(t) + 4} textAnchor="end" className="fill-quiet">
            {formatShort(t, 1)}
          </text>
        </g>
      ))}
      {ticks(0, profile.length, 6).map((t, i) => (
        <text
          key={t}
          x={LEFT + t / metresPerPixel.x}
          y={height - 5}
          textAnchor={i === 0 ? 'start' : 'middle'}
          className="fill-quiet"
        >
          {i === 0 ? 'A' : profile.length >= 2000 ? `${formatShort(t / 1000, 2)} km` : `${formatShort(t, 1)} m`}
        </text>
      ))}
      <path d={`${source}L${px(POINTS - 1)} ${TOP + h}L${px(0)} ${TOP + h}Z`} className="fill-kelp-wash" />
      {sea !== null && sea > y0 && sea < y1 && (
        <line
          x1={LEFT}
          x2={width - RIGHT}
          y1={py(sea)}
          y2={py(sea)}
          className="stroke-ink"
          strokeDasharray="6 3"
          strokeWidth="1"
        />
      )}
      <path d={source} fill="none" className="stroke-ink" strokeWidth="1.5" />
      <path d={path(profile.result)} fill="none" className="stroke-kelp" strokeWidth="1.2" strokeDasharray="5 3" />
      <line x1={LEFT} x2={width - RIGHT} y1={TOP + h} y2={TOP + h} className="stroke-ink" />
      {person >= 2 && (
        <rect x={LEFT + 6} y={TOP + h - person} width={Math.max(2, person / 3)} height={person} className="fill-ink" />
      )}
      {index !== null && !Number.isNaN(profile.source[index] ?? NaN) && (
        <g>
          <line x1={px(index)} x2={px(index)} y1={TOP} y2={TOP + h} className="stroke-kelp" />
          <text
            x={px(index) + (index > POINTS * 0.72 ? -6 : 6)}
            y={TOP + 11}
            textAnchor={index > POINTS * 0.72 ? 'end' : 'start'}
            className="fill-kelp"
          >
            {formatNumber(profile.source[index] ?? 0, 2)} m
            {Number.isNaN(profile.result[index] ?? NaN) ? '' : ` → ${formatNumber(profile.result[index] ?? 0, 2)} m`}
          </text>
        </g>
      )}
    </svg>
  );
}

const TABS = [
  { value: 'section', label: 'Section A–B' },
  { value: 'elevations', label: 'Elevations' },
] as const;

/** The strip under the map: cross-section and histogram. */
export function SectionStrip() {
  const [tab, setTab] = useState<'section' | 'elevations'>('section');
  const { setFrame, size } = useSize<HTMLDivElement>();
  const profile = useProfile();
  const arrived = useSession((s) => s.arrived);
  const plan = usePlan();
  const open = useSession((s) => s.pane === 'section');
  return (
    <section
      aria-label="Section and elevations"
      className={`${paneClass(open)} h-[152px] max-wide:short:h-auto max-wide:short:flex-1 shrink-0 border-t border-ink bg-panel flex-col`}
    >
      <div className="flex flex-wrap items-center gap-x-4 px-4">
        <Tabs label="Under the map" value={tab} choices={TABS} onChange={setTab} />
        {tab === 'section' && profile && (
          <span className="ml-auto num text-[12px] text-quiet flex flex-wrap gap-x-3 items-center min-w-0">
            <span className="inline-flex items-center gap-1">
              <svg width="18" height="6" aria-hidden="true">
                <path d="M0 3h18" className="stroke-ink" strokeWidth="1.5" />
              </svg>
              source
            </span>
            <span className="inline-flex items-center gap-1">
              <svg width="18" height="6" aria-hidden="true">
                <path d="M0 3h18" className="stroke-kelp" strokeWidth="1.5" strokeDasharray="5 3" />
              </svg>
              result
            </span>
            <span>
              {formatLength(profile.length)} · steepest {formatShort(profile.steepest, 0)}° ·{' '}
              {profile.rise < 0 ? 'falls' : 'rises'}{' '}
              {formatShort(Math.abs(profile.rise), Math.abs(profile.rise) < 100 ? 1 : 0)} m
              {plan && ` · steps ${formatLength(plan.document.height.effectiveStep)}`}
            </span>
          </span>
        )}
        {tab === 'elevations' && plan && (
          <span className="ml-auto num text-[12px] text-quiet">share of the fitted ground at each elevation</span>
        )}
      </div>
      <div
        ref={setFrame}
        className="flex-1 min-h-0"
        role="tabpanel"
        aria-label={tab === 'section' ? 'Section' : 'Elevations'}
      >
        {size && tab === 'section' && profile && (
          <ProfilePlot profile={profile} width={size.width} height={size.height} />
        )}
        {tab === 'section' && arrived !== null && (
          <p className="px-4 py-3 text-quiet">The section is drawn once the source has been read.</p>
        )}
        {size && tab === 'elevations' && <Elevations height={size.height} />}
      </div>
    </section>
  );
}
