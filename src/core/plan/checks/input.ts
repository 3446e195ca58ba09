import type { Repair } from '../../base';
import type { HeightRange, Precision } from '../../height';
import type { StoredType } from '../../operations';
import type { GroundStatistics, RasterInfo } from '../../raster';
import type { Recipe } from '../../recipe';
import type { WrittenTarget } from '../../targets';
import type { TileGrid } from '../../tiles';
import type { ChainStep, CheckState } from '../document';
import type { Entering, SourceFacts } from '../facts';
import type { Geometry } from '../geometry';
import type { LayoutChoice } from '../grid-layout';

export interface ChecksInput {
  readonly recipe: Recipe;
  readonly target: WrittenTarget;
  /** The source as it lies, and the raster that enters the fit. */
  readonly source: Pick<SourceFacts, 'info' | 'stats' | 'warnings'>;
  readonly entering: Pick<Entering, 'stats'>;
  /** The type whose ends the heights of the recipe speak of. */
  readonly ends: StoredType;
  /** Of what enters the fit. */
  readonly info: RasterInfo;
  readonly geometry: Geometry;
  readonly range: HeightRange;
  readonly precision: Precision;
  readonly ground: GroundStatistics | null;
  /** Elevation in world metres of a stored value. */
  readonly elevationOf: (stored: number) => number;
  /** Share of the ground at or below the sea; null where there is none, or the ground is not known. */
  readonly flooded: number | null;
  readonly clipped: { readonly low: number | null; readonly high: number | null };
  readonly tiles: TileGrid;
  readonly choice: LayoutChoice;
}

interface Extra {
  readonly spot?: string;
  readonly repair?: Repair | null;
}
/** Notes a check: the step that it belongs to, its id, what it came to, and that in words. */
export type Say = (step: ChainStep, id: string, state: CheckState, message: string, extra?: Extra) => void;
