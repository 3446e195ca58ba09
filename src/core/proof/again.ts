import type { JobContext } from '../base';
import type { Recipe } from '../recipe';
import { endsKernel, WholeGroundKernel } from '../wasm';
import type { Seen } from './compare-files';
import { doubtChecks, type Reference } from './pipeline';
import { asItLiesCheck, Ends, extremesCheck, meshChecks, sizeCheck, sourceCheck } from './source-checks';
import { stepChecks } from './source-steps';
import {
  checkHeights,
  codeOf,
  expectedHeights,
  LEAST_PLACES,
  MOST_PLACES,
  placesOf,
  readGround,
  seedOf,
  WholeGround,
  workOutSteps,
  type Compiled,
  type ExpectedGrid,
  type ExpectedHeights,
  type Page,
  type Place,
  type SourceFacts,
  type SourceReading,
  type TwinGround,
} from './twin';
import type { Proof, ProofCheck } from './types';
import { VertexJudge } from './vertices';

/*
 * The slow twin at work: which vertices are worked out a second time from the source's samples, and what they say.
 */

const COMPILED: Compiled = {
  ground: (width, height, across) => WholeGroundKernel.create(width, height, across),
  ends: endsKernel,
};

/** What a pack was made of, and what follows from it. */
export interface Made {
  readonly page: Page;
  readonly recipe: Recipe;
  readonly grid: ExpectedGrid;
  readonly facts: SourceFacts;
  /** What the heights rest on as the page says it, and what follows. */
  readonly claims: Parameters<typeof expectedHeights>[1];
  readonly claimed: ExpectedHeights;
}

/** The vertices that will be worked out: their codes are kept while the files are read. */
export interface Looks {
  readonly spots: readonly Place[];
  /** The spots first. */
  readonly kept: readonly Place[];
  /** Every vertex, where that can be paid for. */
  readonly whole: WholeGround | null;
  /** Seed of places where neighbours differ; null where none are wanted. */
  readonly telling: number | null;
  /** The code that voids are written as; null where the recipe gives them none. */
  readonly voidCode: number | null;
}

/** Where there is no source only the spots are looked at. */
export function looksWithout(page: Page): Looks {
  const spots = page.spots.map(({ x, y }): Place => ({ x, y }));
  return { spots, kept: spots, whole: null, telling: null, voidCode: null };
}

/** Which vertices are worked out: all of them, or so many that they can be paid for. */
export function looksAt({ page, recipe, grid, facts, claimed }: Made, { stage }: TwinGround): Looks {
  const { spots } = looksWithout(page);
  const voidCode = claimed.voids === null ? null : codeOf(claimed.voids, claimed).code;
  const whole = stage.deferred ? null : WholeGround.of(recipe, grid, facts, COMPILED);
  if (whole) return { spots, kept: spots, whole, telling: null, voidCode };
  const seed = seedOf(page.files.map((f) => f.sha256 ?? f.name));
  const most = affordable(recipe, grid, facts);
  const places = placesOf(grid, facts, spots, seed, stage.samples.outlines);
  // each row and column comes first
  const kept = [...spots, ...places.slice(0, Math.max(0, most - spots.length))];
  const besides = grid.width + grid.height;
  const some = places.length < grid.width * grid.height && kept.length + besides <= Math.min(most, MOST_PLACES);
  return { spots, kept, whole: null, telling: some ? seed + 2 : null, voidCode };
}

/** Most samples that are weighed for all places together. */
const MOST_WORK = 1.5e8;

/** How many vertices can be worked out one by one: each takes as many samples as its kernel covers. */
function affordable(recipe: Recipe, grid: ExpectedGrid, facts: SourceFacts): number {
  if (recipe.fit.method !== 'resample') return MOST_PLACES;
  const taps = (n: number, m: number): number => 6 * Math.max(1, (n - 1) / Math.max(1, m - 1));
  const each = taps(facts.width, grid.width) * taps(facts.height, grid.height);
  return Math.max(Math.min(LEAST_PLACES, grid.width + grid.height), Math.floor(MOST_WORK / each));
}

/** The steps of the recipe done a second time, before any vertex is looked at. */
export function groundAgain({ opened, stageAfter }: Reference, recipe: Recipe, job: JobContext): Promise<TwinGround> {
  return workOutSteps(opened, recipe, (index) => stageAfter(index) ?? opened, job);
}

/** Places that were projected in two ways lie apart by so many samples at most; a sample further lies no more than the whole range. */
const OF_PLACES = 1e-8;

/** The file whose code is kept for a vertex: the last one that has it. */
const fileAt = (page: Page, { x, y }: Place): string =>
  page.files.findLast(({ window: w }) => x >= w.x && y >= w.y && x < w.x + w.width && y < w.y + w.height)?.name ?? '';

/** What was worked out a second time. */
export interface Again {
  readonly heights: ExpectedHeights;
  /** At the spots, in order. */
  readonly spotGround: SourceReading['values'];
  readonly places: NonNullable<Proof['places']>;
  /** Vertices beyond the height range, where all were worked out. */
  readonly beyond: VertexJudge['beyond'] | null;
}

/** The slow twin: the ground at vertices, from the source's samples. */
export async function workOutAgain(
  made: Made,
  reference: Reference,
  ground: TwinGround,
  looks: Looks,
  seen: Seen,
  checks: ProofCheck[],
  job: JobContext,
): Promise<Again> {
  const { page, recipe, grid, facts, claims } = made;
  const { spots, kept, whole } = looks;
  const { opened } = reference;
  const judged = [...kept, ...seen.telling.map((t) => t.place)];
  const reading = await readGround(
    ground.stage,
    made,
    [...judged, ...seen.extremes],
    { whole, compiled: COMPILED },
    job,
  );
  checks.push(sizeCheck(page, facts, ground.stage), sourceCheck(page, reading, recipe));
  checks.push(...(await asItLiesCheck(page, opened, recipe, job)));
  checks.push(...stepChecks(recipe, page, ground.steps), ...doubtChecks(reference, recipe));
  checks.push(...(await meshChecks(opened, recipe, job)));
  const [min, max] = [reading.min ?? 0, reading.max ?? 0];
  const worked = expectedHeights(recipe, { ...claims, min, max });
  const heights = ground.stage.deferred
    ? { ...worked, loose: OF_PLACES * Math.abs(worked.unit) * (max - min) }
    : worked;
  const ends = new Ends(heights);
  for (const value of reading.values) ends.add(value);
  const judge = new VertexJudge(heights);
  const { width, height } = grid;
  const total = width * height;
  let left = { rows: 0, columns: 0 };
  if (reading.all && seen.all) {
    const at = { x: 0, y: 0 };
    const found = [
      {
        code: 0,
        get file() {
          return fileAt(page, at);
        },
      },
    ];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const value = reading.all(x, y);
        ends.add(value);
        at.x = x;
        at.y = y;
        found[0]!.code = seen.all[y * width + x]!;
        judge.judge(x, y, value, found);
      }
  } else {
    const codes = [...seen.codes, ...seen.telling.map((t) => [t.code])];
    judged.forEach(({ x, y }, i) => judge.judge(x, y, reading.values[i]!, codes[i]!));
    left = {
      rows: height - new Set(judged.map((p) => p.y)).size,
      columns: width - new Set(judged.map((p) => p.x)).size,
    };
  }
  checks.push(extremesCheck(page, heights, ends, recipe.height.range === 'ground'), checkHeights(page, heights));
  checks.push(...judge.checks(total, left));
  const everywhere = reading.all !== null;
  return {
    heights,
    spotGround: reading.values.slice(0, spots.length),
    places: { compared: everywhere ? total : judged.length, different: judge.different, left },
    beyond: everywhere ? judge.beyond : null,
  };
}
