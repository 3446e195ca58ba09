'use client';
import { formatLength, formatShort } from '@/core/base';
import { withCeiling, withFit, withMethod } from '@/core/edits';
import type { Filter } from '@/core/raster';
import type { Recipe } from '@/core/recipe';
import { editRecipe } from '@/state';
import { Button, CheckBox, Fold, NumberField, Segmented, Select } from '@/ui';
import { choose, useCurrentRecipe, useEnteringInfo, usePlan } from '../hooks';
import { Layouts } from './layouts';
import { BenchHead, Group, Hint } from './parts';
import { Place } from './place';
import { OwnTarget } from './own-target';
import { Registration } from './registration';
import { Sides } from './sides';

const FILTERS: readonly { value: Filter; label: string; hint: string }[] = [
  { value: 'lanczos3', label: 'Lanczos, 3 lobes', hint: 'Sharpest; may overshoot at edges.' },
  { value: 'catmull-rom', label: 'Catmull-Rom', hint: 'Sharp, with a little overshoot.' },
  { value: 'bilinear', label: 'Bilinear', hint: 'Soft, never overshoots.' },
  { value: 'area', label: 'Area mean', hint: 'Averages the ground under each vertex; for much smaller grids.' },
  { value: 'nearest', label: 'Nearest', hint: 'Takes samples unchanged; edges turn to stairs.' },
];

const METHODS: Record<Recipe['fit']['method'], string> = {
  resample: 'The whole source is stretched over the grid; the spacing changes.',
  crop: 'A window of the source is taken as it is; the spacing stays.',
  pad: 'The source is laid into a larger grid; the spacing stays, the rest is rim.',
};

export function Fit() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const info = useEnteringInfo();
  if (!recipe || !plan || !info) return null;
  const { document } = plan;
  const { fit } = recipe;
  const cover = (n: number): string => formatLength(plan.work.entering.spacing * (n - 1));
  const square = info.width === info.height;
  const anySize = plan.work.target.grid.kind === 'any';
  return (
    <>
      <BenchHead title="Fit">
        {square ? info.width : `${info.width} × ${info.height}`} samples at {formatShort(plan.work.entering.spacing, 4)}{' '}
        m cover {square ? cover(info.width) : `${cover(info.width)} × ${cover(info.height)}`}.{' '}
        {anySize ? 'The target takes every size.' : 'The target takes only the sizes below.'}
      </BenchHead>
      <Group title="Fit by">
        <Segmented
          label="Fit by"
          value={fit.method}
          onChange={(method) => choose((r) => withMethod(r, method, info))}
          choices={[
            { value: 'resample', label: 'Resampling' },
            { value: 'crop', label: 'Cropping' },
            { value: 'pad', label: 'Padding' },
          ]}
        />
        <Hint>{METHODS[fit.method]}</Hint>
      </Group>
      <Sides />
      <Layouts />
      {fit.method === 'resample' ? (
        <Group title="Resampling">
          <div className="flex items-center justify-between gap-3">
            <Select
              label="Filter"
              value={fit.filter}
              options={FILTERS}
              onChange={(filter) => choose((r) => withFit(r, { filter }))}
              className="flex-1"
            />
            <CheckBox
              label="no overshoot"
              checked={fit.clamp}
              onChange={(clamp) => choose((r) => withFit(r, { clamp }))}
            />
          </div>
          <Hint>
            {FILTERS.find((f) => f.value === fit.filter)?.hint} No overshoot keeps heights within the source’s own.
          </Hint>
        </Group>
      ) : (
        <Place />
      )}
      <Fold title="More: samples, ceiling, miniature, origin">
        <Registration />
        <NumberField
          label="At most, vertices per side"
          value={fit.atMost ?? null}
          whole
          min={2}
          max={65536}
          hint={
            fit.atMost === undefined
              ? 'A ceiling of your own for one import. None is set.'
              : 'Sizes above it are told of, here and on the card.'
          }
          onCommit={(n) => editRecipe((r) => withCeiling(r, n))}
        />
        {fit.atMost !== undefined && (
          <Button kind="link" onClick={() => choose((r) => withCeiling(r, null))}>
            no ceiling
          </Button>
        )}
        <NumberField
          label="World scale, one to"
          value={1 / fit.worldScale}
          min={0.001}
          hint={
            fit.worldScale === 1
              ? 'True size. 4 makes a miniature at 1 : 4, ground and heights alike.'
              : `${formatLength(document.fit.extent.x)} across; heights shrink by the same factor, so slopes stay true.`
          }
          onCommit={(v) => editRecipe((r) => withFit(r, { worldScale: 1 / v }))}
        />
        <div className="flex items-center justify-between gap-3">
          <span>World zero lies at</span>
          <Select
            label="World zero"
            value={fit.origin}
            options={[
              { value: 'north-west', label: 'north-west corner' },
              { value: 'south-west', label: 'south-west corner' },
              { value: 'centre', label: 'centre' },
            ]}
            onChange={(origin) => choose((r) => withFit(r, { origin }))}
          />
        </div>
        <Hint>Sets the east and north offset.</Hint>
      </Fold>
      <OwnTarget />
    </>
  );
}
