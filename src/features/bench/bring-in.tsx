'use client';
import { useEffect, useState } from 'react';
import { formatLength, formatShort } from '@/core/base';
import { stepOf, withSpacing } from '@/core/edits';
import { editRecipe, goToStep, patchSession, useSession } from '@/state';
import { askNext, Button, Fold, Mark, NumberField, Segmented } from '@/ui';
import { useCurrentRecipe } from '../hooks';
import { Calibration } from './calibration';
import { confirmOf } from './confirm';
import { MadeHeights } from './made-heights';
import { MeshPanel } from './mesh';
import { BenchHead, Group, Hint } from './parts';
import { HeaderlessPanel } from './headerless-panel';
import { ReplacementNote } from './replacement';
import { Seams } from './seams';
import { SourceCard } from './source-card';
import { SourceFile } from './source-file';
import { SquareMetres } from './squares';

type Across = 'spacing' | 'extent' | 'cells';

function Spacing() {
  const recipe = useCurrentRecipe();
  const facts = useSession((s) => s.facts);
  const [across, setAcross] = useState<Across>('spacing');
  // that of squares, and of what a mesh is baked to, is said with them
  if (!recipe || !facts || stepOf(recipe, 'reproject') || facts.info.mesh) return null;
  const { spacing } = recipe.source;
  const quads = Math.max(1, facts.info.width - 1);
  const parts = across === 'cells' ? facts.info.width : quads;
  return (
    <Group title="Ground">
      <Segmented
        label="Ground is given as"
        value={across}
        onChange={setAcross}
        choices={[
          { value: 'spacing', label: 'Metres per sample' },
          { value: 'extent', label: 'Extent' },
          { value: 'cells', label: 'As cells' },
        ]}
      />
      {across === 'spacing' ? (
        <NumberField
          label="Spacing"
          unit="m"
          value={spacing}
          min={1e-6}
          hint={
            facts.info.width < 2
              ? 'One sample has no extent of its own.'
              : `${facts.info.width} samples, ${quads} ${quads === 1 ? 'interval' : 'intervals'}: ${formatLength(spacing * quads)} from first to last.`
          }
          {...confirmOf(recipe, ['spacing'])}
          onCommit={(v) => editRecipe((r) => withSpacing(r, v))}
        />
      ) : (
        <NumberField
          key={across}
          label={across === 'cells' ? 'East–west extent of cells' : 'East–west extent'}
          unit="m"
          value={spacing * parts}
          min={1e-6}
          hint={
            across === 'cells'
              ? `Each sample is a square, half of which lies beyond the middle of the first and the last: ${formatShort(spacing, 6)} m a sample.`
              : `From the middle of the first sample to that of the last: ${formatShort(spacing, 6)} m a sample.`
          }
          {...confirmOf(recipe, ['spacing'])}
          onCommit={(v) => editRecipe((r) => withSpacing(r, v / parts))}
        />
      )}
    </Group>
  );
}

/** What the file can't say is asked one after the other: the first question takes the focus once. */
function useFirstQuestion(): void {
  const ask = useSession((s) => s.ask);
  const open = useCurrentRecipe()?.source.assumed?.length ?? 0;
  useEffect(() => {
    if (ask === null) return;
    patchSession({ ask: null });
    if (open > 0) askNext();
  }, [ask, open]);
}

/** Something was to be said about this file that it doesn't say itself. */
function useAsked(): boolean {
  const recipe = useCurrentRecipe();
  const open = recipe?.source.assumed?.length ?? 0;
  return recipe !== null && (open > 0 || recipe.source.heights.as !== 'elevations');
}

/** How many questions are open, and the way on when none is. */
function Questions() {
  const recipe = useCurrentRecipe();
  const open = recipe?.source.assumed?.length ?? 0;
  const asked = useAsked();
  if (!asked) return null;
  return open > 0 ? (
    <p className="flex items-start gap-1.5">
      <Mark state="caution" silent />
      <span>
        {open === 1 ? 'One number' : `${open} numbers`} the file can’t say: type {open === 1 ? 'it' : 'each'} and press
        Enter.
      </span>
    </p>
  ) : (
    <p>
      Heights and ground are known.{' '}
      <Button kind="link" onClick={() => goToStep('fit')}>
        Go on to Fit
      </Button>
    </p>
  );
}

export function BringIn() {
  const facts = useSession((s) => s.facts);
  useFirstQuestion();
  if (!facts) return <BenchHead title="Bring in">Reading the source.</BenchHead>;
  return (
    <>
      <BenchHead title="Bring in">What the file really holds, and what its numbers stand for.</BenchHead>
      <ReplacementNote />
      <SourceCard facts={facts} />
      <HeaderlessPanel />
      <Questions />
      <MeshPanel />
      {/* a mesh says its heights with its unit */}
      {!facts.info.mesh && <Calibration />}
      <Seams />
      <SquareMetres />
      <Spacing />
      <MadeHeights />
      <SourceFile />
      <Fold title="Warnings about the file">
        {facts.warnings.length === 0 ? (
          <Hint>None.</Hint>
        ) : (
          facts.warnings.map((w) => <p key={w.message}>{w.message}</p>)
        )}
      </Fold>
    </>
  );
}
