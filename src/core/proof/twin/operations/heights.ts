import type { JobContext } from '../../../base';
import type { Recipe } from '../../../recipe';
import { calibrationOf } from '../heights';
import { onGround, type TwinContext, type TwinStage } from './operation';

/*
 * What the twins of operations on heights have in common: the ground as one grid of doubles, no number where there is no
 * height, and what a sample stands for.
 */

/** The ground, row after row. */
export interface Grid {
  readonly width: number;
  readonly height: number;
  readonly at: Float64Array;
}

/** `narrow`: they came as floats of 32 bits. */
async function gridOf({ width, height, samples }: TwinStage, narrow: boolean, job: JobContext): Promise<Grid> {
  const at = new Float64Array(width * height).fill(NaN);
  for await (const band of samples.bands(job))
    for (let r = 0; r < band.rows; r++)
      for (let c = 0; c < band.width; c++) {
        const value = band.data[r * band.width + c] as number;
        // of files that lie over one another the first has said it
        if (Number.isFinite(value)) at[(band.y + r) * width + band.x + c] = narrow ? Math.fround(value) : value;
      }
  return { width, height, at };
}

const ROWS = 64;

/** A stage of which all samples are worked out at once; it is done once, when they are first asked for. */
function stageOf(
  before: TwinStage,
  width: number,
  height: number,
  make: (job: JobContext) => Promise<Grid>,
): TwinStage {
  let made: Promise<Grid> | null = null;
  return {
    ...before,
    width,
    height,
    pieces: null,
    samples: {
      files: 1,
      outlines: [{ x: 0, y: 0, width, height }],
      async *bands(job) {
        const { at } = await (made ??= make(job));
        for (let y = 0; y < height; y += ROWS) {
          const rows = Math.min(ROWS, height - y);
          yield { y, x: 0, rows, width, data: at.subarray(y * width, (y + rows) * width) };
        }
      },
    },
  };
}

/** Floats of 32 bits keep what these samples are: so they are stored between two steps. */
function areNarrow({ steps }: Recipe, { bitDepth, sampleType }: TwinContext['file']): boolean {
  const mixed = steps.some((s) => !s.off && (s.op === 'linearise' || s.op === 'blend'));
  return mixed || (sampleType === 'float' ? bitDepth <= 32 : bitDepth <= 24);
}

/** What a sample stands for once the ground is worked with: true metres = offset + unit · sample. */
export interface Samples {
  readonly unit: number;
  readonly offset: number;
  /** The sample that stands for an elevation. */
  readonly of: (elevation: number) => number;
}

export function samplesOf({ recipe, file }: Pick<TwinContext, 'recipe' | 'file'>): Samples {
  const { unit, offset } = calibrationOf(recipe, file);
  return { unit, offset, of: (elevation) => (elevation - offset) / unit };
}

/** What becomes of each sample of a grid: a new array, as long as the grid. */
export type Worked = (grid: Grid, job: JobContext) => Float64Array;

/**
 * The ground after a step that changes heights where they are. Counts each sample that is another one as it is stored.
 */
export function changed(before: TwinStage, context: TwinContext, work: Worked): TwinStage {
  const narrow = areNarrow(context.recipe, context.file);
  const { unit } = samplesOf(context);
  return onGround(before, (ground) =>
    stageOf(ground, ground.width, ground.height, async (job) => {
      const grid = await gridOf(ground, narrow, job);
      const at = work(grid, job);
      const { note, end } = context.count.begin();
      for (let i = 0; i < at.length; i++) {
        if (narrow) at[i] = Math.fround(at[i]!);
        const [was, is] = [grid.at[i]!, at[i]!];
        if (Number.isNaN(was) ? Number.isNaN(is) : Math.abs(is - was) <= SAME * Math.abs(was)) continue;
        note((is - was) * unit);
      }
      end();
      return { ...grid, at };
    }),
  );
}

/** Doubles that differ by less of themselves are the same height. */
const SAME = 1e-12;

/** Ground that begins elsewhere and has another size: each sample from one before, by its column and row there. */
export function moved(
  before: TwinStage,
  { column, row, width, height }: { column: number; row: number; width: number; height: number },
  valueAt: (grid: Grid, x: number, y: number) => number,
): TwinStage {
  return onGround(before, (ground) => {
    const { georeference: g, deferred } = ground;
    const georeference = g && { ...g, x: g.x + column * g.dx, y: g.y - row * g.dy };
    // nothing is sampled yet: places are looked up from elsewhere
    if (deferred)
      return {
        ...ground,
        georeference,
        width,
        height,
        deferred: { ...deferred, find: (x, y) => deferred.find(x + column, y + row) },
      };
    return stageOf({ ...ground, georeference }, width, height, async (job) => {
      const grid = await gridOf(ground, false, job);
      const at = new Float64Array(width * height);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) at[y * width + x] = valueAt(grid, x + column, y + row);
      return { width, height, at };
    });
  });
}
