import { affinePlace, affineThen, affineWay, IDENTITY, type Affine, type Pair } from '../base';
import { heightsOf, type OpenRaster, type RasterInfo, type StoredBand } from '../raster';
import { gridOf, warped, type MetricVertices } from '../squares';
import { held } from './held';
import type { Deferred, Stage, StageRaster } from './operation';

/* Ground that comes to lie elsewhere while it is fitted: steps that move it are one map, and it is sampled once. */

/** Vertices on a stage: the place of the first in its samples, and the ways from each to its neighbours. */
export interface OnStage {
  readonly origin: Pair;
  readonly across: Pair;
  readonly down: Pair;
  readonly width: number;
  readonly height: number;
  /** First and last vertex each way that lie on the stage. */
  readonly covered: MetricVertices['covered'];
}

/** Vertices on a stage as places of what it is made of. */
export function verticesOn(
  { from, squares, affine }: Deferred,
  { origin, across, down, ...rest }: OnStage,
): MetricVertices {
  const { width, height, georeference } = from;
  const moved = {
    origin: affinePlace(affine, origin),
    across: affineWay(affine, across),
    down: affineWay(affine, down),
  };
  if (!squares || !georeference) return { ...rest, ...moved, from: { width, height }, zone: null };
  const { spacing, zone, south } = squares;
  const { x, y, dx, dy, system } = georeference;
  const ground = gridOf(from, squares);
  const metres = ([right, below]: Pair): Pair => [right * spacing, -below * spacing];
  const [east, north] = metres(moved.origin);
  return {
    ...rest,
    from: { width, height, georeference: { x, y, dx, dy, ...(system === undefined ? {} : { system }) } },
    zone: { zone, south },
    origin: [ground.east + east, ground.north + north],
    across: metres(moved.across),
    down: metres(moved.down),
  };
}

/** The stage after its ground was moved; `back`: from places of the result to places before, in samples. */
export function afterMoving(stage: Stage, back: Affine): Omit<Stage, 'samples'> & { readonly deferred: Deferred } {
  const { samples: _samples, info, ...rest } = stage;
  const { georeference: _place, noData: _mark, ...kept } = info;
  const before = stage.deferred ?? { from: info, squares: null, affine: IDENTITY, gaps: false, hold: false };
  return {
    ...rest,
    asStored: false,
    mended: true,
    info: { ...kept, sampleType: 'float', bitDepth: 32, byteOrder: null, mayHoldVoids: true },
    deferred: { ...before, affine: affineThen(back, before.affine), gaps: true },
  };
}

/** How the moved ground is shown before it is fitted. */
const SHOWN = { filter: 'catmull-rom', clamp: null, rim: NaN } as const;

/** The raster after a step that moves the ground: what the fit reads stays as it was, and what is shown is made of that. */
export function openMoved(
  { base, fitted = base, orientation }: StageRaster,
  { info, deferred }: Pick<Stage, 'info'> & { readonly deferred: Deferred },
): StageRaster {
  const { width, height } = info;
  const covered = { west: 0, east: width - 1, north: 0, south: height - 1 };
  const vertices = verticesOn(deferred, { origin: [0, 0], across: [1, 0], down: [0, 1], width, height, covered });
  const made = sampled(fitted, info, vertices);
  return { base: deferred.hold ? held(made, fitted) : made, orientation, files: null, fitted };
}

function sampled(from: OpenRaster, info: RasterInfo, vertices: MetricVertices): OpenRaster {
  return {
    ...from,
    info,
    async *bands(job): AsyncGenerator<StoredBand> {
      yield* warped(heightsOf(from, 0), vertices, SHOWN).bands(job);
    },
  };
}
