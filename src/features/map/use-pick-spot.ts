'use client';
import { useEffect } from 'react';
import type { MapPoint } from '@/core/view';
import { patchSession, setKnownSpot, useSession, workers } from '@/state';
import { useCurrentRecipe, usePlan } from '../hooks';

/** What a click on the map does while a known spot is chosen; null else. Escape leaves it. */
export function usePickSpot(): ((at: MapPoint | null) => void) | null {
  const picking = useSession((s) => s.picking);
  const sourceKey = useSession((s) => s.sourceKey);
  const recipe = useCurrentRecipe();
  const work = usePlan()?.work;
  useEffect(() => {
    if (!picking) return;
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === 'Escape') patchSession({ picking: false });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [picking]);
  if (!picking || sourceKey === null || !recipe || !work) return null;
  return (at) => {
    if (!at) return;
    void workers()
      .readout(sourceKey, recipe, work, at)
      .then((readout) => {
        const sample = readout?.sample;
        if (!sample) {
          patchSession({ notice: 'There is no height at that place: choose one on the ground.' });
          return;
        }
        const { column, row, stored, elevation } = sample;
        setKnownSpot(useSession.getState().knownSpots.length, {
          column,
          row,
          stored,
          shown: elevation,
          elevation: null,
        });
      });
  };
}
