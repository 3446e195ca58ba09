import { LevelGridError } from '../../base';
import type { Recipe } from '../../recipe';

/*
 * What each kind of target makes of a file and of what is typed into it: written down a second time, from what the targets
 * are, with vectors worked out by hand in the tests. Shares nothing with the descriptions that plans are made from.
 */

/** How a target makes heights of codes. */
export type HeightKind =
  | { readonly kind: 'centred'; readonly middle: number; readonly perUnit: number }
  | { readonly kind: 'span' }
  | { readonly kind: 'fixed-step'; readonly step: number }
  | { readonly kind: 'layers'; readonly bottom: number; readonly top: number };

export interface TargetFacts {
  /** The unit that lengths and heights are typed in, in metres. */
  readonly unit: number;
  readonly unitName: string;
  /** Samples of a file are cells, not vertices. */
  readonly cells: boolean;
  readonly heights: HeightKind;
  /** The highest code. */
  readonly top: number;
  /** Which elevation is height 0: as the recipe says, that of code 0, or 0. */
  readonly zero: 'chosen' | 'lowest-code' | 'elevation';
  /** Metres from sample to sample that it has whatever is typed. */
  readonly spacing: number | null;
  readonly halfTurn: boolean;
  /** What its components are made of. */
  readonly components: {
    readonly quads: readonly number[];
    readonly patches: readonly number[];
    readonly most: number;
  } | null;
  /** Sides of the tiles that it keeps the ground in, a power of two. */
  readonly tiles: { readonly least: number; readonly most: number } | null;
  /** Rows that its card has, by what they are about. */
  readonly rows: readonly string[];
}

const WORLD = {
  unit: 1,
  unitName: 'm',
  top: 65535,
  zero: 'chosen',
  spacing: null,
  halfTurn: false,
  components: null,
  tiles: null,
  heights: { kind: 'span' },
} as const;

const TARGETS: ReadonlyMap<string, TargetFacts> = new Map<string, TargetFacts>([
  [
    'component-grid',
    {
      ...WORLD,
      unit: 0.01,
      unitName: 'cm',
      cells: false,
      heights: { kind: 'centred', middle: 32768, perUnit: 128 },
      components: { quads: [7, 15, 31, 63, 127, 255], patches: [1, 2], most: 32 },
      rows: [
        'layout',
        'verticesX',
        'verticesY',
        'groundScaleX',
        'groundScaleY',
        'heightScale',
        'heightOffset',
        'eastOffset',
        'northOffset',
        'companions',
        'reading',
      ],
    },
  ],
  [
    'odd-grid',
    {
      ...WORLD,
      cells: false,
      rows: ['vertices', 'extentX', 'extentY', 'heightRange', 'baseElevation', 'eastOffset', 'northOffset', 'reading'],
    },
  ],
  [
    'even-grid',
    {
      ...WORLD,
      cells: true,
      rows: ['samples', 'topOfRange', 'metresPerSample', 'baseElevation', 'eastOffset', 'northOffset', 'reading'],
    },
  ],
  [
    'fixed-step',
    {
      ...WORLD,
      cells: false,
      heights: { kind: 'fixed-step', step: 0.015625 },
      zero: 'lowest-code',
      spacing: 16,
      rows: ['vertices', 'lowestElevation', 'seaLevel', 'reading'],
    },
  ],
  [
    'fixed-span',
    {
      ...WORLD,
      cells: true,
      zero: 'lowest-code',
      spacing: 3.5,
      halfTurn: true,
      rows: ['samples', 'heightRange', 'seaLevel', 'reading'],
    },
  ],
  [
    'stored-tiles',
    {
      ...WORLD,
      cells: false,
      zero: 'elevation',
      tiles: { least: 64, most: 2048 },
      rows: [
        'verticesX',
        'verticesY',
        'metresPerSample',
        'storedTileSide',
        'lowestElevation',
        'highestElevation',
        'eastOffset',
        'northOffset',
        'reading',
      ],
    },
  ],
  [
    'voxel-layers',
    {
      ...WORLD,
      cells: true,
      heights: { kind: 'layers', bottom: -64, top: 319 },
      zero: 'lowest-code',
      rows: [
        'samplesX',
        'samplesY',
        'metresPerSample',
        'bottomLayer',
        'topLayer',
        'waterLayer',
        'metresPerLayer',
        'reading',
      ],
    },
  ],
  [
    'exchange',
    {
      ...WORLD,
      cells: false,
      zero: 'elevation',
      rows: [
        'verticesX',
        'verticesY',
        'metresPerSample',
        'lowestElevation',
        'highestElevation',
        'eastOffset',
        'northOffset',
        'reading',
      ],
    },
  ],
]);

/** What is known of a target that a recipe describes. */
function factsDescribed(target: Exclude<Recipe['target'], string>): TargetFacts {
  const { heights, unit, grid } = target;
  return {
    unit: unit.metres,
    unitName: unit.name,
    cells: target.registration === 'cell',
    heights:
      heights.kind === 'centred' ? { kind: 'centred', middle: heights.middle, perUnit: heights.divisor } : heights,
    top: target.highestCode,
    zero: target.zero,
    spacing: target.spacing ?? null,
    halfTurn: target.halfTurn === true,
    components:
      grid.kind === 'components' ? { quads: grid.quads, patches: grid.patches, most: grid.maxComponents } : null,
    tiles: grid.kind === 'stored-tiles' ? { least: grid.least, most: grid.most } : null,
    rows: target.asks,
  };
}

/** What is known of the target of a recipe. Throws where nothing is. */
export function factsOfTarget(target: Recipe['target']): TargetFacts {
  if (typeof target !== 'string') return factsDescribed(target);
  const facts = TARGETS.get(target);
  if (facts) return facts;
  throw new LevelGridError('unknown-target', {
    found: `a pack for "${target}"`,
    expected: [...TARGETS.keys()].join(' or '),
    remedy: 'Prove it with the Level Grid that wrote it.',
  });
}

/** Layers of the lowest and highest code: the recipe's, or the target's own; null where it counts in none. */
export function layersOf(
  kind: HeightKind,
  { height }: Recipe,
): { readonly bottom: number; readonly top: number } | null {
  if (kind.kind !== 'layers') return null;
  return { bottom: height.bottom ?? kind.bottom, top: height.top ?? kind.top };
}
