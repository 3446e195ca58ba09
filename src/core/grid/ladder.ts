import { ladderOf, layoutsFor, type ComponentLayout } from './layouts';
import type { GridRule } from '../targets';

/** One rung of the ladder, held against a source of `samples` per side. */
export interface Rung {
  readonly vertices: number;
  readonly layouts: readonly ComponentLayout[];
  /** The source has at least as many samples as the rung has vertices. */
  readonly filled: boolean;
  /** Vertices the source does not reach when padded. */
  readonly rim: number;
  /** Samples left over when cropped. */
  readonly cut: number;
  /** (vertices − 1)/(samples − 1): above 1, resampling invents detail. */
  readonly upsampling: number;
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
  }
}

/** The size ladder of a target against a source. */
export function ladder(rule: GridRule, samples: number): Rung[] {
  return sizesOf(rule).map((vertices) => ({
    vertices,
    layouts: rule.kind === 'components' ? layoutsFor(vertices, rule) : [],
    filled: vertices <= samples,
    rim: Math.max(0, vertices - samples),
    cut: Math.max(0, samples - vertices),
    upsampling: samples > 1 ? (vertices - 1) / (samples - 1) : vertices - 1,
  }));
}

/** Share of a resampled grid's vertices, 0..1, that the source has no detail for. */
export function inventedShare(upsampling: number): number {
  return upsampling > 1 ? 1 - 1 / upsampling ** 2 : 0;
}

/** Rungs ranked by how well the source fills them: nothing invented first, least given up next, fewest components last. */
export function bestRungs(rungs: readonly Rung[], count: number): Rung[] {
  const fewest = (rung: Rung): number => Math.min(...rung.layouts.map((l) => l.components ** 2), Infinity);
  return [...rungs]
    .sort((a, b) => Number(b.filled) - Number(a.filled) || a.cut - b.cut || a.rim - b.rim || fewest(a) - fewest(b))
    .slice(0, count);
}
