import { checkpoint, type JobContext } from '../base';
import { overlapOf } from './arrange';
import { readEdges, type Edges } from './edges';
import { examined } from './seams';
import type { Arrangement, Part, PlacedPart } from './types';
import { fitsAlongSeams, mosaicWarnings } from './warnings';

/** Something about how parts were put together that should be looked at. */
export interface Doubt {
  readonly about: 'rows' | 'columns' | 'swapped' | 'normalised' | 'seams' | 'gap';
  readonly message: string;
}

/**
 * What there is to doubt of parts that lie so, by the samples along their seams: an order that only fits the other way
 * round, two that should change places, seams that don't match, places that no part covers. Reads each part once.
 */
export async function doubtsOf(
  parts: readonly Part[],
  placed: readonly PlacedPart[],
  job?: JobContext,
): Promise<Doubt[]> {
  const own = placed.map(({ name }) => parts.find((p) => p.name === name));
  if (placed.length < 2 || own.some((p) => p === undefined)) return [];
  const deep = overlapOf(
    placed,
    own.map((p) => p!.raster.info),
  );
  const edges: Edges[] = [];
  for (const part of own) {
    checkpoint(job);
    edges.push(await readEdges(part!, deep));
  }
  const a = examined(placed, edges, 'hand', null);
  const turned = fitsAlongSeams(a) ? null : (otherWay(placed, edges, 1) ?? otherWay(placed, edges, 0));
  if (turned !== null) {
    const [what, from, other] = turned === 1 ? ['rows', 'north', 'south'] : ['columns', 'west', 'east'];
    const message = `The ${what} of files are counted from the ${from}; their seams match only where they are counted from the ${other}.`;
    return [{ about: turned === 1 ? 'rows' : 'columns', message }, ...gaps(a)];
  }
  return mosaicWarnings(a).map(({ code, message }) => ({ about: aboutOf(a, code), message }));
}

const gaps = (a: Arrangement): Doubt[] =>
  mosaicWarnings(a).flatMap(({ code, message }) => (code === 'mosaic-gap' ? [{ about: 'gap', message }] : []));

function aboutOf(a: Arrangement, code: string): Doubt['about'] {
  if (code === 'mosaic-gap') return 'gap';
  return a.swapped ? 'swapped' : a.normalised ? 'normalised' : 'seams';
}

/** The other way round seams differ by so many times less. */
const CLEARLY = 4;

/** The axis, where the parts fit when they are counted from the other end of it. */
function otherWay(placed: readonly PlacedPart[], edges: readonly Edges[], axis: 0 | 1): 0 | 1 | null {
  const reach = (i: number): number => (axis === 0 ? edges[i]!.width : edges[i]!.height);
  const whole = Math.max(...placed.map((p, i) => p.at[axis] + reach(i)));
  const mirrored = placed.map((p, i): PlacedPart => {
    const at: [number, number] = [...p.at];
    at[axis] = whole - p.at[axis] - reach(i);
    return { ...p, at };
  });
  const moved = mirrored.some((p, i) => p.at[axis] !== placed[i]!.at[axis]);
  const { seams } = examined(placed, edges, 'hand', null);
  const after = examined(mirrored, edges, 'hand', null);
  const better = after.seams.seams >= seams.seams && after.seams.mean * CLEARLY < seams.mean;
  return moved && better && fitsAlongSeams(after) ? axis : null;
}
