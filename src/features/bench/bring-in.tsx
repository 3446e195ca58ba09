'use client';
import { useEffect, useState } from 'react';
import { formatNumber, formatLength, formatShort } from '@/core/base';
import { asMetres, asShares, confirmed, withSourceValues, type SourceValues } from '@/core/edits';
import { HEIGHT_ENDINGS } from '@/core/formats';
import { highestStored } from '@/core/height';
import type { Assumable, Recipe } from '@/core/recipe';
import { editRecipe, goToStep, patchSession, replaceSource, useSession } from '@/state';
import { askNext, Button, FileButton, Fold, Mark, NumberField, Segmented } from '@/ui';
import { choose, useCurrentRecipe } from '../hooks';
import { BenchHead, Group, Hint } from './parts';
import { HeaderlessPanel } from './headerless-panel';
import { ReplacementNote } from './replacement';
import { SourceCard } from './source-card';

type Given = 'high' | 'range' | 'code';
type Across = 'spacing' | 'extent';

/** Typed values are placeholders no longer; a value that only moved along stays one. */
const setSource = (values: SourceValues, typed: readonly Assumable[]): void =>
  editRecipe((r) => withSourceValues(r, values, typed));

/** What a field of a placeholder needs to be confirmed. */
function confirmOf(recipe: Recipe, which: readonly Assumable[]): { onConfirm?: () => void } {
  const open = which.some((w) => recipe.source.assumed?.includes(w));
  return open ? { onConfirm: () => choose((r) => confirmed(r, which)) } : {};
}

function Calibration() {
  const recipe = useCurrentRecipe();
  const facts = useSession((s) => s.facts);
  const [given, setGiven] = useState<Given>('high');
  if (!recipe || !facts) return null;
  const { low, high } = recipe.source;
  const top = highestStored(facts.info);
  if (low === undefined || high === undefined) {
    return (
      <Group title="Heights">
        <Hint>The file holds numbers with a fraction; they are taken as metres.</Hint>
        <Button kind="line" onClick={() => choose(asShares)}>
          They run from 0 to 1 instead
        </Button>
      </Group>
    );
  }
  return (
    <Group
      title="Heights"
      aside={facts.info.sampleType === 'float' ? 'values normalised 0 to 1' : `codes 0 to ${formatNumber(top, 0)}`}
    >
      {facts.info.sampleType === 'float' && (
        <Button kind="line" onClick={() => choose(asMetres)}>
          They are metres already
        </Button>
      )}
      <Segmented
        label="Heights are given as"
        value={given}
        onChange={setGiven}
        choices={[
          { value: 'high', label: 'Low, high' },
          { value: 'range', label: 'Low, range' },
          { value: 'code', label: 'Metres per code' },
        ]}
      />
      <NumberField
        label="Code 0 stands for"
        unit="m"
        value={low}
        hint="Elevation of black, whether or not it occurs."
        {...confirmOf(recipe, ['low'])}
        onCommit={(v) => setSource({ low: v, high: given === 'high' && high > v ? high : v + high - low }, ['low'])}
      />
      {given === 'high' && (
        <NumberField
          label={`Code ${top} stands for`}
          unit="m"
          value={high}
          hint="Elevation of white. A service’s “highest elevation” is this, not the range."
          {...confirmOf(recipe, ['high'])}
          onCommit={(v) => setSource({ high: v }, ['high'])}
        />
      )}
      {given === 'range' && (
        <NumberField
          label="Range"
          unit="m"
          value={high - low}
          min={1e-6}
          hint={`From code 0 to code ${top}.`}
          {...confirmOf(recipe, ['high'])}
          onCommit={(v) => setSource({ high: low + v }, ['high'])}
        />
      )}
      {given === 'code' && (
        <NumberField
          label="One code is"
          unit="m"
          digits={9}
          value={(high - low) / top}
          hint="Metres from one code to the next."
          {...confirmOf(recipe, ['high'])}
          onCommit={(v) => setSource({ high: low + v * top }, ['high'])}
        />
      )}
    </Group>
  );
}

function Spacing() {
  const recipe = useCurrentRecipe();
  const facts = useSession((s) => s.facts);
  const [across, setAcross] = useState<Across>('spacing');
  if (!recipe || !facts) return null;
  const { spacing } = recipe.source;
  const quads = Math.max(1, facts.info.width - 1);
  return (
    <Group title="Ground">
      <Segmented
        label="Ground is given as"
        value={across}
        onChange={setAcross}
        choices={[
          { value: 'spacing', label: 'Metres per sample' },
          { value: 'extent', label: 'Whole extent' },
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
          onCommit={(v) => setSource({ spacing: v }, ['spacing'])}
        />
      ) : (
        <NumberField
          label="East–west extent"
          unit="m"
          value={spacing * quads}
          min={1e-6}
          hint={`From the first sample to the last: ${formatShort(spacing, 6)} m a sample.`}
          {...confirmOf(recipe, ['spacing'])}
          onCommit={(v) => setSource({ spacing: v / quads }, ['spacing'])}
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

/** How many questions are open, and the way on when none is. */
function Questions() {
  const recipe = useCurrentRecipe();
  const typed = recipe !== null && recipe.source.low !== undefined;
  const open = recipe?.source.assumed?.length ?? 0;
  if (!typed) return null;
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
  const source = useSession((s) => s.source);
  const arrived = useSession((s) => s.arrived);
  useFirstQuestion();
  if (!facts) return <BenchHead title="Bring in">Reading the source.</BenchHead>;
  return (
    <>
      <BenchHead title="Bring in">What the file really holds, and what its numbers stand for.</BenchHead>
      <SourceCard facts={facts} bytes={source?.size ?? null} arrived={arrived} />
      <ReplacementNote />
      <HeaderlessPanel />
      <Questions />
      <Calibration />
      <Spacing />
      <div className="flex flex-col gap-2 border-t border-rule pt-3">
        <div>
          <FileButton
            label="Replacing heightmap"
            accept={HEIGHT_ENDINGS}
            onFiles={([file]) => file && void replaceSource(file)}
          >
            Replace the source…
          </FileButton>
        </div>
        <Hint>
          Keeps every choice of this project. For a project of its own bring a file in with the button above, or drop
          files or a folder anywhere on this page.
        </Hint>
      </div>
      <Fold title="Warnings about the file">
        {facts.warnings.length === 0 ? <Hint>None.</Hint> : facts.warnings.map((w) => <p key={w.code}>{w.message}</p>)}
      </Fold>
    </>
  );
}
