import type { CardRowId, Target } from '../../targets';
import type { CardRow } from '../document';
import * as ground from './ground';
import * as heights from './heights';
import type { CardInput } from './parts';
import { readingRows } from './reading';

export { originOffset } from './ground';
export { layersOf } from './heights';
export { digitsWithin, stepOf, worldElevation } from './parts';

/** What each row says; a target names those that it asks for. */
const ROWS: { readonly [K in CardRowId]: (input: CardInput) => CardRow | readonly CardRow[] } = {
  verticesX: ground.verticesX,
  verticesY: ground.verticesY,
  vertices: ground.vertices,
  samples: ground.samples,
  samplesX: ground.samplesX,
  samplesY: ground.samplesY,
  layout: ground.layoutRows,
  groundScaleX: ground.groundScaleX,
  groundScaleY: ground.groundScaleY,
  extentX: ground.extentX,
  extentY: ground.extentY,
  metresPerSample: ground.metresPerSample,
  storedTileSide: ground.storedTileSide,
  heightScale: heights.heightScale,
  heightOffset: heights.heightOffset,
  heightRange: heights.heightRange,
  topOfRange: heights.topOfRange,
  baseElevation: heights.baseElevation,
  lowestElevation: heights.lowestElevation,
  highestElevation: heights.highestElevation,
  bottomLayer: heights.bottomLayer,
  topLayer: heights.topLayer,
  waterLayer: heights.waterLayer,
  metresPerLayer: heights.metresPerLayer,
  seaLevel: heights.seaLevel,
  eastOffset: ground.eastOffset,
  northOffset: ground.northOffset,
  companions: ground.companionRows,
  reading: readingRows,
};

/** Rows from which heights are made, where they are not centred. Of two ends a height is off by no more than one is. */
const TYPED_HEIGHTS: readonly CardRowId[] = ['heightRange', 'topOfRange', 'baseElevation', 'highestElevation'];
/** What is not typed where a file holds metres. */
const ENDS: readonly CardRowId[] = [...TYPED_HEIGHTS, 'lowestElevation'];

/** The import card: every value to type, in the order in which the target asks for it. */
export const cardRows = (input: CardInput): CardRow[] => {
  const { asks, encoding } = input.target;
  const asked = encoding.stores === 'metres' ? asks.filter((id) => !ENDS.includes(id)) : asks;
  return asked.flatMap((id) => ROWS[id](input));
};

/** Most that rounding the card's values can move a height, in metres. */
export function typingBudget(card: readonly CardRow[], target: Target): number {
  const rounding = (id: string): number => {
    const row = card.find((r) => r.id === id);
    return row ? 0.5 * 10 ** -row.digits : 0;
  };
  if (target.heights.kind === 'centred') {
    const { middle, divisor } = target.heights;
    return ((middle / divisor) * rounding('heightScale') + rounding('heightOffset')) * target.unit.metres;
  }
  return TYPED_HEIGHTS.reduce((sum, id) => sum + rounding(id), 0);
}
