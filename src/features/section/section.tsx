'use client';
import { useState } from 'react';
import { formatLength, formatShort } from '@/core/base';
import { useSession } from '@/state';
import { useSize, Tabs } from '@/ui';
import { usePlan } from '../hooks';
import { paneClass } from '../panes';
import { Elevations } from './elevations';
import { ProfilePlot, useProfile } from './profile';

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
              {/* an end that lies in voids rises to nowhere */}
              {Number.isFinite(profile.rise)
                ? `${profile.rise < 0 ? 'falls' : 'rises'} ${formatShort(Math.abs(profile.rise), Math.abs(profile.rise) < 100 ? 1 : 0)} m`
                : 'one end without height'}
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
        {size && tab === 'elevations' && <Elevations width={size.width} height={size.height} />}
      </div>
    </section>
  );
}
