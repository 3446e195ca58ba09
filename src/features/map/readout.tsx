'use client';
import { useEffect, useState } from 'react';
import { formatLength, formatNumber } from '@/core/base';
import { originOffset } from '@/core/plan';
import { errorAt } from '@/core/proof';
import { useSession, workers } from '@/state';
import type { MapPoint } from '@/core/view';
import type { Readout } from '@/workers/protocol';
import { useCurrentRecipe, usePlan } from '../hooks';
import { usePointer } from './pointer';

/** What stands under the pointer: place in metres, vertex, elevation of source and result. */
export function PointerReadout() {
  const at = usePointer((s) => s.at);
  const sourceKey = useSession((s) => s.sourceKey);
  const there = useSession((s) => s.held && s.arrived === null);
  const view = useSession((s) => s.view);
  const kind = useSession((s) => s.errorKind);
  const maps = useSession((s) => s.proof?.maps ?? null);
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const work = plan?.work;
  const [value, setValue] = useState<{ at: MapPoint; readout: Readout } | null>(null);
  useEffect(() => {
    if (!at || !there || sourceKey === null || !recipe || !work) return;
    let wanted = true;
    void workers()
      .readout(sourceKey, recipe, work, at)
      .then((readout) => {
        if (wanted && readout) setValue({ at, readout });
      });
    return () => {
      wanted = false;
    };
  }, [at, there, sourceKey, recipe, work]);
  if (!at || !recipe || !work || !value) return null;
  const { sourceStart: s, sourcePerVertex: per, width, height, spacing } = work.geometry;
  const metres = work.entering.spacing * recipe.fit.worldScale;
  // counted as the check spots are: from where world zero lies
  const zero = originOffset(recipe, work.geometry);
  const east = zero.east + (value.at.x - s.x) * metres;
  const north = zero.north - (value.at.y - s.y) * metres;
  const vx = Math.round((value.at.x - s.x) / per.x);
  const vy = Math.round((value.at.y - s.y) / per.y);
  const inside = vx >= 0 && vy >= 0 && vx < width && vy < height;
  const digits = spacing.x < 1 ? 2 : 1;
  const error =
    view === 'difference' && maps
      ? errorAt(
          maps,
          kind,
          (value.at.x - s.x) / per.x / Math.max(1, width - 1),
          (value.at.y - s.y) / per.y / Math.max(1, height - 1),
        )
      : null;
  return (
    <output
      data-readout
      aria-label="Under the pointer"
      className="num text-[12px] leading-[18px] bg-panel/95 border border-ink px-2 py-0.5 text-right"
    >
      <span className="block">
        east {formatNumber(east, digits)} m&ensp;north {formatNumber(north, digits)} m
        {inside && (
          <span className="text-quiet">
            &ensp;v {vx}, {vy}
          </span>
        )}
      </span>
      {error !== null && (
        <span className="block">
          {kind === 'encoding' ? 'shown' : 'fitted'}{' '}
          <b className="font-semibold">
            {error === 0 ? 'as' : `up to ${formatLength(Math.abs(error))} ${error < 0 ? 'below' : 'above'}`}
          </b>{' '}
          the {kind === 'encoding' ? 'fitted ground' : 'source'}
        </span>
      )}
      <span className="block">
        {value.readout.source === null ? 'beyond the source' : `source ${formatNumber(value.readout.source, 2)} m`}
        {value.readout.result !== null && (
          <>
            &ensp;<b className="font-semibold">result {formatNumber(value.readout.result, 2)} m</b>
          </>
        )}
      </span>
    </output>
  );
}
