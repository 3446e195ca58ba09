import { asLevelGridError, type LevelGridError } from '../base';
import { trueCalibration, type Calibration } from '../height';
import {
  AS_IT_LIES,
  isAsItLies,
  operationOf,
  orientedSides,
  type Operation,
  type PlanContext,
  type Stage,
  type StoredType,
} from '../operations';
import { curvedShare, highestStored, type RasterInfo } from '../raster';
import type { Recipe, Step } from '../recipe';

/** A step that is on, and the stage that it makes. */
export interface PlannedStep {
  readonly step: Step;
  /** Its place in the recipe. */
  readonly index: number;
  readonly operation: Operation;
  /** Its parameters as they reach the samples. */
  readonly resolved: unknown;
  readonly before: Stage;
  readonly stage: Stage;
}

/** What the raster is after each step, from the source as it lies to what enters the fit. No pixel is touched. */
export interface Chain {
  readonly source: Stage;
  readonly steps: readonly PlannedStep[];
  readonly entering: Stage;
  /** Why a step can't stand where it does; the chain then ends before it. */
  readonly refusal: { readonly index: number; readonly error: LevelGridError } | null;
}

/** The same samples, laid in the same way: what statistics, drawn tiles and profiles of a stage are kept under. */
export const stageKey = ({ samples, orientation }: Stage): string =>
  isAsItLies(orientation) ? samples : `${samples} ${JSON.stringify(Object.values(orientation).map(Number))}`;

/** What the samples of a stage are, as they lie. */
export function infoOfStage({ info, orientation }: Stage): RasterInfo {
  if (isAsItLies(orientation)) return info;
  const { georeference: _, ...rest } = info;
  return { ...rest, ...orientedSides(orientation, info) };
}

/** The type of the codes that the files hold, whatever was done to their samples since. */
export const endsOf = ({ own, bitDepth, sampleType }: RasterInfo): StoredType => own ?? { bitDepth, sampleType };

/** The stages of a recipe over a source that is `info`. */
export function planChain(recipe: Recipe, info: RasterInfo): Chain {
  const source: Stage = {
    info,
    orientation: AS_IT_LIES,
    ends: endsOf(info),
    spacing: recipe.source.spacing,
    asStored: true,
    metric: false,
    samples: '',
  };
  const calibrated = (stage: Stage): Calibration => trueCalibration(recipe.source.heights, stage.ends);
  const context: PlanContext = {
    storedOf: (elevation) => storedOf(recipe, info, elevation),
    sampleOf: (stage, elevation) => {
      const { unit, offset } = calibrated(stage);
      return (elevation - offset) / unit;
    },
    unitOf: (stage) => calibrated(stage).unit,
    files: recipe.source.files?.length ?? 1,
  };
  const steps: PlannedStep[] = [];
  let before = source;
  for (const [index, step] of recipe.steps.entries()) {
    if (step.off) continue;
    const operation = operationOf(step);
    try {
      const { stage: planned, resolved } = operation.plan(before, step, context);
      const samples = operation.lossless ? before.samples : `${before.samples}>${step.op}${JSON.stringify(resolved)}`;
      const stage: Stage = { ...planned, samples };
      steps.push({ step, index, operation, resolved, before, stage });
      before = stage;
    } catch (reason) {
      const error = asLevelGridError(reason, 'planning the steps');
      return { source, steps, entering: before, refusal: { index, error } };
    }
  }
  return { source, steps, entering: before, refusal: null };
}

/** The value that a file stores for a true elevation, through what its heights stand for, and back through its curve. */
function storedOf(recipe: Recipe, info: RasterInfo, elevation: number): number {
  const curve = recipe.steps.find((s) => s.op === 'linearise' && !s.off);
  if (curve?.op !== 'linearise') {
    const { unit, offset } = trueCalibration(recipe.source.heights, endsOf(info));
    return (elevation - offset) / unit;
  }
  const { unit, offset } = trueCalibration(recipe.source.heights, { bitDepth: 32, sampleType: 'float' });
  return curvedShare((elevation - offset) / unit, curve.curve) * highestStored(endsOf(info));
}
