import { useMemo } from 'react';
import { ontoGround, ontoStage } from '@/core/chain';
import { patchSession, useSession, type SectionLine } from '@/state';
import { usePlan } from '../hooks';

/** The section line as it lies on what is shown, and the way to move it: it is kept on the ground, whatever is turned. */
export function useSectionLine(): [SectionLine | null, (line: SectionLine) => void] {
  const section = useSession((s) => s.section);
  const arriving = useSession((s) => s.arrived !== null);
  const entering = usePlan()?.work.entering.stage;
  const stage = arriving ? undefined : entering;
  const shown = useMemo(
    () => (section && stage ? { a: ontoStage(stage, section.a), b: ontoStage(stage, section.b) } : section),
    [section, stage],
  );
  const move = ({ a, b }: SectionLine): void =>
    patchSession({ section: stage ? { a: ontoGround(stage, a), b: ontoGround(stage, b) } : { a, b } });
  return [shown, move];
}
