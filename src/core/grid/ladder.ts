import { fewestComponents, ladderOf, layoutsFor, type ComponentLayout } from './layouts';
import type { GridRule } from '../targets';

/** A layout of a rung; marked where a new project takes it. */
export interface RungLayout extends ComponentLayout {
  readonly default?: true;
}

/** One rung of the ladder, held against a source of `samples` per side. */
export interface Rung {
  readonly vertices: number;
  readonly layouts: readonly RungLayout[];
  /** The source has at least as many samples as the rung has vertices. */
  readonly filled: boolean;
  /** Vertices the source does not reach when padded. */
  readonly rim: number;
  /** Samples left over when cropped. */
  readonly cut: number;
  /** (vertices − 1)/(samples − 1): above 1, resampling invents detail. */
  readonly upsampling: number;
  /** The rung that a new project takes. */
  readonly default?: true;
}

/** All sizes that a grid rule allows, ascending. */
export function sizesOf(rule: GridRule): number[] {
  switch (rule.kind) {
    case 'components':
      return ladderOf(rule);
    case 'power-of-two-plus-one': {
      const sizes: number[] = [];
      for (let quads = rule.min - 1; quads + 1 <= rule.max; quads *= 2) sizes.push(quads + 1);
      return sizes;
    }
    case 'power-of-two': {
      const sizes: number[] = [];
      for (let side = rule.min; side <= rule.max; side *= 2) sizes.push(side);
      return sizes;
    }
    case 'multiples': {
      const first = Math.ceil((rule.min - rule.plus) / rule.step) * rule.step + rule.plus;
      return upwards(first, rule.max, rule.step);
    }
    case 'stored-tiles':
      return upwards(rule.least, rule.max, rule.least).flatMap((side) => (side < rule.max ? [side, side + 1] : [side]));
    case 'one':
      return [rule.side];
    case 'any':
      return upwards(rule.min, rule.max, 1);
  }
}

/** The largest power of two from `least` to `most` that a side of vertices, or of quads, is made of; null where there is none. */
export function storedTileOf(
  vertices: number,
  { least, most }: { readonly least: number; readonly most: number },
): number | null {
  for (let side = most; side >= least; side /= 2) if (vertices % side === 0 || (vertices - 1) % side === 0) return side;
  return null;
}

function upwards(from: number, to: number, by: number): number[] {
  const sizes: number[] = [];
  for (let side = from; side <= to; side += by) sizes.push(side);
  return sizes;
}

/** More sizes than anybody reads are not listed one by one. */
const MOST_LISTED = 400;

/** Sizes that are listed against a source: all, or of very many those next to it, its parts, and powers of two. */
function listedSizes(rule: GridRule, samples: number): readonly number[] {
  const sizes = sizesOf(rule);
  if (sizes.length <= MOST_LISTED) return sizes;
  const wanted = new Set<number>();
  for (let n = 2; n <= 65536; n *= 2) [n - 1, n, n + 1].forEach((side) => wanted.add(side));
  for (const share of [4, 3, 2, 1, 1 / 2]) wanted.add(Math.round(samples / share));
  const near = (side: number): number => sizes.find((s) => s >= side) ?? sizes.at(-1)!;
  return [...new Set([...wanted].map(near))].sort((a, b) => a - b);
}

/** The sizes that a grid rule allows next to `vertices`: the largest below and the smallest above it. */
export function besides(rule: GridRule, vertices: number): number[] {
  const sizes = sizesOf(rule);
  return [...sizes.filter((s) => s < vertices).slice(-1), ...sizes.filter((s) => s > vertices).slice(0, 1)];
}

/** What a target takes at once: components in all (null: it has none), and vertices a side of one import. */
export interface GridBudgets {
  readonly components: number | null;
  readonly verticesAdvised: number;
}

export const NO_BUDGETS: GridBudgets = { components: null, verticesAdvised: Infinity };

/** The size ladder of a target against a source; the default rung stays within the budgets. */
export function ladder(rule: GridRule, samples: number, budgets: GridBudgets = NO_BUDGETS): Rung[] {
  const rungs = listedSizes(rule, samples).map((vertices) => rungOf(rule, vertices, samples));
  const first = defaultRung(rungs, samples, budgets);
  return rungs.map((rung) => {
    if (rung !== first) return rung;
    const taken = fewestComponents(rung.layouts);
    return { ...rung, layouts: rung.layouts.map((l) => (l === taken ? { ...l, default: true } : l)), default: true };
  });
}

function rungOf(rule: GridRule, vertices: number, samples: number): Rung {
  return {
    vertices,
    layouts: rule.kind === 'components' ? layoutsFor(vertices, rule) : [],
    filled: vertices <= samples,
    rim: Math.max(0, vertices - samples),
    cut: Math.max(0, samples - vertices),
    upsampling: upsamplingOf(vertices, samples),
  };
}

/** The rung of this size, also where it is not among those that are listed; null where the rule does not allow it. */
export const rungAt = (rule: GridRule, vertices: number, samples: number): Rung | null =>
  sizesOf(rule).includes(vertices) ? rungOf(rule, vertices, samples) : null;

/** Vertices of the result for each interval between samples; of a single sample all but one are invented. */
export function upsamplingOf(vertices: number, samples: number): number {
  return samples > 1 ? (vertices - 1) / (samples - 1) : vertices - 1;
}

/** Up to this enlargement a source still fills a rung: 2048 samples on 2049 vertices. */
export const FILLED_UP_TO = 1.02;

/** A rung that keeps so much a side with less than a quarter of the components is worth the rest. */
const KEEPS_MOST = 0.9;

/** Below this share of the source's samples a side, detail is lost that was there to keep. */
export const LEAST_KEPT = 0.7;

/** Components of a square in its default layout; rungs without layouts have none to count. */
export const componentsOf = (rung: Pick<Rung, 'layouts'>): number => {
  const layout = fewestComponents(rung.layouts);
  return layout ? layout.components ** 2 : 0;
};

/**
 * The rung that a new project takes. The source's own size where the target accepts it; else, of the rungs within 2 %
 * of the source, the one with the fewest components (of several, the nearest); else the largest that the source fills.
 * Where one that keeps nine tenths has less than a quarter of its components, that one.
 */
export function defaultRung(
  rungs: readonly Rung[],
  samples: number,
  { components, verticesAdvised }: GridBudgets,
): Rung | undefined {
  const affordable = rungs.filter((r) => r.vertices <= verticesAdvised && componentsOf(r) <= (components ?? Infinity));
  const taken = nearestRung(affordable, samples) ?? rungs[0];
  const few = affordable.filter(
    (r) => r.filled && r.upsampling >= KEEPS_MOST && taken && componentsOf(r) < componentsOf(taken) / 4,
  );
  return few.at(-1) ?? taken;
}

function nearestRung(affordable: readonly Rung[], samples: number): Rung | undefined {
  const exact = affordable.find((r) => r.vertices === samples);
  if (exact) return exact;
  const distance = (r: Rung): number => Math.abs(Math.log(r.upsampling));
  const near = affordable
    .filter((r) => r.upsampling <= FILLED_UP_TO && r.upsampling >= 1 / FILLED_UP_TO)
    .sort((a, b) => componentsOf(a) - componentsOf(b) || distance(a) - distance(b));
  return near[0] ?? affordable.filter((r) => r.upsampling <= FILLED_UP_TO).at(-1);
}

/** The smallest rung on which a source keeps nearly all its samples; undefined where none is so large. */
export function keepingRung(rungs: readonly Rung[]): Rung | undefined {
  return rungs.find((r) => r.upsampling >= 1 / FILLED_UP_TO);
}

/** Share of the source's samples along a side, 0..1, that a resampled grid keeps. */
export function keptShare(upsampling: number): number {
  return Math.min(1, upsampling);
}

/** Share of a resampled grid's vertices, 0..1, that the source has no detail for. */
export function inventedShare(upsampling: number): number {
  return upsampling > 1 ? 1 - 1 / upsampling ** 2 : 0;
}

/** Rungs ranked by how well the source fills them: nothing invented first, least given up next, fewest components last. */
export function bestRungs(rungs: readonly Rung[], count: number): Rung[] {
  return [...rungs]
    .sort(
      (a, b) =>
        Number(b.filled) - Number(a.filled) || a.cut - b.cut || a.rim - b.rim || componentsOf(a) - componentsOf(b),
    )
    .slice(0, count);
}
