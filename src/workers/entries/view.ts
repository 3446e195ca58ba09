import * as Comlink from 'comlink';
import { endsOf, ontoGround } from '../../core/chain';
import { calibrate, exaggerated, trueCalibration } from '../../core/height';
import type { SourceFacts, Work } from '../../core/plan';
import { Pyramid, type Level } from '../../core/raster';
import type { Recipe } from '../../core/recipe';
import { MAP_COLOURS, shade } from '../../core/relief';
import {
  elevationAt,
  smallPicture,
  levelSize,
  MAP_TILE,
  profile,
  resultAt,
  resultWindow,
  sourceWindow,
  type MapPoint,
  type MapSource,
} from '../../core/view';
import type { Readout, TilePixels, ViewWorker } from '../protocol';

interface Held {
  readonly facts: SourceFacts;
  readonly pyramid: Pyramid;
  /** Rows read so far, written by the worker that reads; null where all are there. */
  readonly rows: Int32Array | null;
  /** What enters the fit, where steps are on; the last that was made. */
  readonly stage: { readonly key: string; readonly pyramid: Pyramid; readonly fitting: Level | null } | null;
}
const held = new Map<string, Held>();

/** What enters the fit as the map needs it, or the source as it lies; null where that stage is not there yet. */
function mapSource(id: string, recipe: Recipe, work: Work, asItLies = false): MapSource | null {
  const source = held.get(id);
  if (!source) return null;
  const { rows } = source;
  const { key, stage } = work.entering;
  const steps = !asItLies && key !== '';
  if (steps && source.stage?.key !== key) return null;
  const pyramid = steps ? source.stage!.pyramid : source.pyramid;
  if (rows && !steps) pyramid.grow(Atomics.load(rows, 0));
  const stored = calibrate(recipe, asItLies ? endsOf(source.facts.info) : stage.ends);
  // the source is shown as the result will be: shrunk and exaggerated alike
  const { unit, offset } = exaggerated(stored, work.range.pivot, recipe.height.exaggeration);
  return {
    levels: pyramid.levels,
    ...(steps && source.stage?.fitting ? { fitting: source.stage.fitting } : {}),
    known: pyramid.known,
    unit,
    offset,
  };
}

/** The sample of what enters the fit nearest to a place. */
function sampleAt(source: MapSource, recipe: Recipe, { entering: { stage } }: Work, at: MapPoint): Readout['sample'] {
  const whole = source.levels[0]!;
  const x = Math.round(at.x);
  const y = Math.round(at.y);
  if (x < 0 || y < 0 || x >= whole.width || y >= whole.height) return null;
  const stored = whole.samples[y * whole.width + x] as number;
  if (!Number.isFinite(stored)) return null;
  const { unit, offset } = trueCalibration(recipe.source.heights, stage.ends);
  const ground = ontoGround(stage, { x, y });
  return { column: ground.x, row: ground.y, stored, elevation: offset + unit * stored };
}

/** Samples along the longer side of what is kept of a source: as many as the map has pixels on most screens. */
const KEPT_SIDE = 1100;

const worker: ViewWorker = {
  arrive: (id, facts, { samples, rows }, overview) => {
    const { width, height } = facts.info;
    held.set(id, { facts, pyramid: new Pyramid({ width, height, samples }, overview), rows, stage: null });
  },

  hold: (id, facts, samples) => {
    const { width, height } = facts.info;
    const pyramid = held.get(id)?.pyramid ?? new Pyramid({ width, height, samples });
    pyramid.grow(height);
    held.set(id, { facts, pyramid, rows: null, stage: null });
  },

  holdStage: (id, { key, info: { width, height }, samples, fitting }) => {
    const source = held.get(id);
    if (!source) return;
    const pyramid = new Pyramid({ width, height, samples });
    pyramid.grow(height);
    const read = fitting ? { ...fitting.info, samples: fitting.samples } : null;
    held.set(id, { ...source, stage: { key, pyramid, fitting: read } });
  },

  tile: (request): TilePixels | null => {
    const { which, level, column, row, recipe, work, view, dark } = request;
    const source = mapSource(request.id, recipe, work, request.asItLies);
    if (!source) return null;
    const { geometry } = work;
    const base = source.levels[0]!;
    const fromSource = which === 'source';
    const whole = fromSource ? base : geometry;
    const area = {
      x: column * MAP_TILE,
      y: row * MAP_TILE,
      width: Math.min(MAP_TILE, levelSize(whole.width, level) - column * MAP_TILE),
      height: Math.min(MAP_TILE, levelSize(whole.height, level) - row * MAP_TILE),
    };
    if (area.width <= 0 || area.height <= 0 || (fromSource && level >= source.levels.length)) return null;
    const heights = fromSource ? sourceWindow(source, level, area) : resultWindow(source, work, level, area);
    const spacing = (request.asItLies ? recipe.source.spacing : work.entering.spacing) * recipe.fit.worldScale;
    const scale = 2 ** level;
    const pixels = new Uint8ClampedArray(area.width * area.height * 4);
    shade(pixels, heights, area.width, area.height, {
      view,
      spacingX: (fromSource ? spacing : geometry.spacing.x) * scale,
      spacingY: (fromSource ? spacing : geometry.spacing.y) * scale,
      low: request.low,
      high: request.high,
      relief: 1,
      step: work.effectiveStep,
      shrink: scale,
      water: request.water,
      ink: MAP_COLOURS[dark ? 'night' : 'film'].ink,
      paper: MAP_COLOURS[dark ? 'night' : 'film'].paper,
    });
    return Comlink.transfer({ width: area.width, height: area.height, pixels }, [pixels.buffer]);
  },

  profile: (id, recipe, work, a, b, count) => {
    const source = mapSource(id, recipe, work);
    return source ? profile(source, recipe, work, a, b, count) : null;
  },

  readout: (id, recipe, work, at) => {
    const source = mapSource(id, recipe, work);
    if (!source) return null;
    const result = resultAt(source, work, at);
    return {
      source: elevationAt(source, 0, at.x, at.y),
      result: Number.isNaN(result) ? null : result,
      sample: sampleAt(source, recipe, work, at),
    };
  },

  thumbnail: (id, side) => {
    const pyramid = held.get(id)?.pyramid;
    return pyramid ? smallPicture(pyramid.levels, side) : null;
  },

  overview: (id) => {
    const overview = held.get(id)?.pyramid.overview(KEPT_SIDE) ?? null;
    return overview && Comlink.transfer(overview, [overview.samples.buffer]);
  },

  close: (id) => {
    held.delete(id);
  },
};

Comlink.expose(worker);
