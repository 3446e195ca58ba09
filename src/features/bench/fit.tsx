'use client';
import { useState } from 'react';
import { formatBytes, formatLength, formatShort } from '@/core/base';
import { textureSamples, verticesOf } from '@/core/grid';
import {
  withCeiling,
  withComponents,
  withFit,
  withGroundCentred,
  withMethod,
  withPlace,
  withTileSide,
  withTypedSide,
  type Side,
} from '@/core/edits';
import type { Filter } from '@/core/raster';
import type { Recipe } from '@/core/recipe';
import { targetById } from '@/core/targets';
import { editRecipe, useSession } from '@/state';
import { Button, CheckBox, Fold, NumberField, Segmented, Select } from '@/ui';
import { choose, useCurrentRecipe, usePlan } from '../hooks';
import { sidePreview, SizeLadder } from './ladder';
import { BenchHead, Group, Hint } from './parts';

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

/** The ladder of one side, or of both where they are alike. */
function Sides() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const facts = useSession((s) => s.facts);
  const [chosen, setChosen] = useState<Side | null>(null);
  if (!recipe || !plan || !facts) return null;
  const { document } = plan;
  const { layout } = document;
  const { info } = facts;
  const { across, down, width, height } = document.tiles;
  const tiled = document.files.length > 1;
  const mayDiffer = !targetById(recipe.target).square;
  const differ = width !== height || info.width !== info.height;
  const side: Side = mayDiffer ? (chosen ?? (differ ? 'across' : 'both')) : 'both';
  // the ladder compares a tile with its share of the source
  const share = (samples: number, count: number): number => Math.round((samples - 1) / count) + 1;
  const samples =
    side === 'across'
      ? share(info.width, across)
      : side === 'down'
        ? share(info.height, down)
        : share(Math.min(info.width, info.height), Math.max(across, down));
  return (
    <Group
      title={tiled ? 'Vertices per side of a tile' : 'Vertices per side'}
      aside={`whole ${document.fit.width} × ${document.fit.height}`}
    >
      {mayDiffer && (
        <Segmented
          label="Sides"
          value={side}
          onChange={setChosen}
          choices={[
            { value: 'both', label: 'Both sides' },
            { value: 'across', label: 'East–west' },
            { value: 'down', label: 'North–south' },
          ]}
        />
      )}
      <SizeLadder
        target={recipe.target}
        samples={samples}
        value={side === 'down' ? height : width}
        method={recipe.fit.method}
        atMost={recipe.fit.atMost}
        label={{ both: 'Vertices per side', across: 'Vertices, east–west', down: 'Vertices, north–south' }[side]}
        onPick={(vertices) => choose((r) => withTileSide(r, vertices, info, side))}
      />
      <NumberField
        label="Vertices"
        value={side === 'down' ? height : width}
        whole
        min={2}
        preview={(n) => sidePreview(recipe.target, n, samples, recipe.fit.method)}
        onCommit={(n) => editRecipe((r) => withTypedSide(r, n, info, side))}
      />
      {layout && (
        <NumberField
          label="Components"
          value={side === 'down' ? layout.componentsY : layout.componentsX}
          whole
          min={1}
          preview={(n) => {
            const vertices = verticesOf({ ...layout, components: n });
            return `${vertices} vertices: ${sidePreview(recipe.target, vertices, samples, recipe.fit.method)}`;
          }}
          hint={`Each is ${layout.quads * layout.patches} quads a side.`}
          onCommit={(n) => editRecipe((r) => withComponents(r, layout, n, info, side))}
        />
      )}
    </Group>
  );
}

export function Fit() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const facts = useSession((s) => s.facts);
  if (!recipe || !plan || !facts) return null;
  const { document, layouts } = plan;
  const { fit } = recipe;
  const { info } = facts;
  const cover = (n: number): string => formatLength(recipe.source.spacing * (n - 1));
  const square = info.width === info.height;
  return (
    <>
      <BenchHead title="Fit">
        {square ? info.width : `${info.width} × ${info.height}`} samples at {formatShort(recipe.source.spacing, 4)} m
        cover {square ? cover(info.width) : `${cover(info.width)} × ${cover(info.height)}`}. The target takes only the
        sizes below.
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
      {layouts.length > 0 && (
        <Group title={`${document.tiles.width} can be laid out as`}>
          <div role="radiogroup" aria-label="Component layout" className="text-[13px] whitespace-nowrap">
            <div className="grid grid-cols-[38px_50px_1fr_98px] text-quiet px-1" aria-hidden="true">
              <span>quads</span>
              <span>patches</span>
              <span className="text-right">components</span>
              <span className="text-right">texture memory</span>
            </div>
            {layouts.map((l) => {
              const taken = document.layout?.quads === l.quads && document.layout.patches === l.patches;
              return (
                <button
                  key={`${l.quads}/${l.patches}`}
                  type="button"
                  role="radio"
                  aria-checked={taken}
                  aria-label={`${l.quads} quads, ${l.patches} × ${l.patches} patches, ${l.componentsX} × ${l.componentsY} components`}
                  onClick={() => choose((r) => withFit(r, { layout: { quads: l.quads, patches: l.patches } }))}
                  className={`num grid grid-cols-[38px_50px_1fr_98px] w-full text-left px-1 h-6 items-center ${taken ? 'bg-ink text-panel' : 'hover:bg-kelp-wash'}`}
                >
                  <span>{l.quads}</span>
                  <span>
                    {l.patches} × {l.patches}
                  </span>
                  <span className="text-right">
                    {l.componentsX} × {l.componentsY}
                  </span>
                  <span className="text-right">{formatBytes(2 * textureSamples(l))}</span>
                </button>
              );
            })}
          </div>
          <Hint>
            {document.layoutReason !== null && `Taken: ${document.layoutReason}. `}
            Fewer, larger components draw faster; more, smaller ones are culled finer.
          </Hint>
        </Group>
      )}
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
        <Group title={fit.method === 'crop' ? 'Window' : 'Place of the source'}>
          <NumberField
            label={fit.method === 'crop' ? 'First column' : 'Empty columns in the west'}
            value={fit.at[0]}
            whole
            onCommit={(v) => editRecipe((r) => withPlace(r, { column: v }))}
          />
          <NumberField
            label={fit.method === 'crop' ? 'First row' : 'Empty rows in the north'}
            value={fit.at[1]}
            whole
            hint="Counted from the north-west."
            onCommit={(v) => editRecipe((r) => withPlace(r, { row: v }))}
          />
          <Button onClick={() => choose((r) => withGroundCentred(r, info))}>Centre it</Button>
          {fit.method === 'pad' && (
            <NumberField
              label="Rim lies at"
              unit="m"
              value={fit.rim ?? plan.work.rimElevation}
              hint="Elevation of the ground that the source does not cover."
              onCommit={(rim) => editRecipe((r) => withFit(r, { rim }))}
            />
          )}
        </Group>
      )}
      <Fold title="More: ceiling, miniature, origin">
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
    </>
  );
}
