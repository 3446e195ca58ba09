import type { RasterWarning } from '../raster';
import type { Edges } from './edges';
import { examined } from './seams';
import type { PlacedPart } from './types';
import { asArgument, fitsAlongSeams, gapWarnings, mosaicWarnings } from './warnings';

/**
 * What there is to doubt of parts that lie so, by the samples along their seams: an order that only fits when it is
 * counted from the other end, two that should change places, seams that don't match, places that no part covers.
 */
export function doubtsAbout(placed: readonly PlacedPart[], edges: readonly Edges[]): RasterWarning[] {
  const a = examined(placed, edges, 'hand', null);
  if (fitsAlongSeams(a)) return mosaicWarnings(a);
  for (const [axis, what, from, other] of [
    [1, 'rows', 'north', 'south'],
    [0, 'columns', 'west', 'east'],
  ] as const) {
    const turned = otherWay(placed, edges, axis);
    if (turned)
      return [
        {
          code: 'mosaic',
          message: `The ${what} of files are counted from the ${from}; their seams match only where they are counted from the ${other}.`,
          repair: { label: `count ${what} from the ${other}`, edit: 'files', args: { files: asArgument(turned) } },
        },
        ...gapWarnings(a),
      ];
  }
  return mosaicWarnings(a);
}

/** The parts counted from the other end of an axis, where they fit only then. */
function otherWay(placed: readonly PlacedPart[], edges: readonly Edges[], axis: 0 | 1): PlacedPart[] | null {
  const reach = (i: number): number => (axis === 0 ? edges[i]!.width : edges[i]!.height);
  const whole = Math.max(...placed.map((p, i) => p.at[axis] + reach(i)));
  const mirrored = placed.map((p, i): PlacedPart => {
    const at: [number, number] = [...p.at];
    at[axis] = whole - p.at[axis] - reach(i);
    return { ...p, at };
  });
  if (!mirrored.some((p, i) => p.at[axis] !== placed[i]!.at[axis])) return null;
  const { seams } = examined(placed, edges, 'hand', null);
  const after = examined(mirrored, edges, 'hand', null);
  const better = after.seams.seams >= seams.seams && after.seams.mean < seams.mean;
  return better && fitsAlongSeams(after) ? mirrored : null;
}
