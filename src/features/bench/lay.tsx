'use client';
import { ArrowRightLeft, FlipHorizontal2, FlipVertical2, RotateCcw, RotateCw, RefreshCw } from 'lucide-react';
import { withStep } from '@/core/edits';
import { orientationWords } from '@/core/operations';
import type { Step } from '@/core/recipe';
import { Button } from '@/ui';
import { usePlan, useStepEdit } from '../hooks';
import { Group, Hint } from './parts';

const WAYS = [
  { label: '90° clockwise', icon: RotateCw, step: { op: 'turn', quarters: 1 } },
  { label: '90° back', icon: RotateCcw, step: { op: 'turn', quarters: 3 } },
  { label: '180°', icon: RefreshCw, step: { op: 'turn', quarters: 2 } },
  { label: 'East ↔ west', icon: FlipHorizontal2, step: { op: 'mirror', axis: 'x' } },
  { label: 'North ↔ south', icon: FlipVertical2, step: { op: 'mirror', axis: 'y' } },
  { label: 'Rows ↔ columns', icon: ArrowRightLeft, step: { op: 'swap-axes' } },
] as const satisfies readonly { label: string; icon: unknown; step: Step }[];

/** Quarter turns, mirrors, and rows for columns: ground that came the wrong way round. */
export function LayGround() {
  const edit = useStepEdit();
  const stage = usePlan()?.work.entering.stage;
  if (!stage) return null;
  const words = orientationWords(stage.orientation);
  return (
    <Group title="Turn and mirror" aside={words}>
      <div className="grid grid-cols-2 gap-2">
        {WAYS.map(({ label, icon: Icon, step }) => (
          <Button key={label} onClick={() => edit((r, source) => withStep(r, step, source))}>
            <Icon size={14} aria-hidden="true" className="shrink-0" />
            {label}
          </Button>
        ))}
      </div>
      <Hint>
        For ground that arrives turned, mirrored or with rows for columns. No sample changes; the line that was drawn,
        known spots and a cropped window stay on their ground, and the arrow on the map shows where north went.
      </Hint>
    </Group>
  );
}
