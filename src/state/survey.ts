import * as z from 'zod';
import { asLevelGridError, LevelGridError } from '../core/base';
import {
  assemble,
  bundleOf,
  groundOf,
  mapOf,
  MAP_SIDE,
  quadsOf,
  type Block,
  type DataSet,
  type Extent,
  type HandedAs,
} from '../core/survey';
import { bringIn } from './projects';
import { workers } from './workers';
import { patchSession } from './session';
import { allAsOne } from './together';

/** Faults that the desk can be asked to have, to see what becomes of the ground. */
export type DeskFault = 'none' | 'slow' | 'half' | 'missing';

const groundFacts = z.object({
  width: z.int(),
  height: z.int(),
  blocks: z.int(),
  extent: z.object({ west: z.number(), south: z.number(), east: z.number(), north: z.number() }),
  low: z.number().nullable(),
  high: z.number().nullable(),
  voids: z.int(),
});
/** What some ground holds, before it is taken. */
export type GroundFacts = z.infer<typeof groundFacts>;

const offline = (found: string, cause?: unknown): LevelGridError =>
  new LevelGridError('not-found', {
    found,
    expected: 'an answer of the survey desk',
    remedy: 'Try again; what has come so far is kept.',
    ...(cause === undefined ? {} : { cause }),
  });

async function ask(path: string, values: Readonly<Record<string, string | number>>, signal?: AbortSignal) {
  const query = new URLSearchParams(Object.entries(values).map(([k, v]) => [k, String(v)]));
  try {
    return await fetch(`/api/survey/${path}?${query}`, { cache: 'no-store', ...(signal ? { signal } : {}) });
  } catch (cause) {
    if (signal?.aborted) throw cause;
    throw offline('no connection', cause);
  }
}

/** What ground holds; throws where there is none. */
export async function askGround(set: DataSet, extent: Extent, signal?: AbortSignal): Promise<GroundFacts> {
  const answer = await ask('ground', { set, ...extent }, signal);
  if (!answer.ok) throw asLevelGridError(await refusal(answer), 'asking the survey desk');
  return groundFacts.parse(await answer.json());
}

const errorRecord = z.object({ found: z.string(), expected: z.string(), remedy: z.string() });

async function refusal(answer: Response): Promise<LevelGridError> {
  const said = errorRecord.safeParse(await answer.json().catch(() => null));
  return said.success ? new LevelGridError('usage', said.data) : offline(`the answer ${answer.status}`);
}

/** What came of a block. */
export interface CameBlock {
  readonly heights: Float32Array;
  readonly map: Uint8Array;
}
export type Came = ReadonlyMap<string, CameBlock>;

export const blockKey = ({ column, row }: Block): string => `${column} ${row}`;

/** Times that a block is asked for before it counts as not come. */
const TRIES = 2;
/** Blocks that are asked for at once. */
const AT_ONCE = 3;

/**
 * Asks for the blocks that have not come yet; each that comes is told at once, and stays whatever happens to the others.
 * Gives those that did not come, with the last reason.
 */
export async function fetchBlocks(
  set: DataSet,
  blocks: readonly Block[],
  fault: DeskFault,
  came: (block: Block, data: CameBlock) => void,
  signal: AbortSignal,
): Promise<readonly { readonly block: Block; readonly reason: string }[]> {
  const left = [...blocks];
  const failed: { block: Block; reason: string }[] = [];
  const work = async (): Promise<void> => {
    for (let block = left.shift(); block && !signal.aborted; block = left.shift()) {
      try {
        came(block, await fetchBlock(set, block, fault, signal));
      } catch (reason) {
        if (signal.aborted) return;
        failed.push({ block, reason: asLevelGridError(reason, 'asking the survey desk').found });
      }
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, work));
  return failed;
}

async function fetchBlock(set: DataSet, block: Block, fault: DeskFault, signal: AbortSignal): Promise<CameBlock> {
  for (let tried = 1; ; tried++) {
    try {
      const side = quadsOf(set) + 1;
      const heights = await bytesOf('block', { set, ...block, fault }, 4 * side * side, signal);
      const map = await bytesOf('map', { set, ...block, fault: 'none' }, 3 * MAP_SIDE * MAP_SIDE, signal);
      const view = new DataView(heights);
      return {
        heights: Float32Array.from({ length: side * side }, (_, i) => view.getFloat32(4 * i, true)),
        map: new Uint8Array(map),
      };
    } catch (reason) {
      if (signal.aborted || tried >= TRIES) throw reason;
    }
  }
}

async function bytesOf(
  path: string,
  values: Readonly<Record<string, string | number>>,
  length: number,
  signal: AbortSignal,
): Promise<ArrayBuffer> {
  const answer = await ask(path, values, signal);
  if (!answer.ok) throw offline(answer.status === 404 ? 'no such block' : `the answer ${answer.status}`);
  const bytes = await answer.arrayBuffer();
  if (bytes.byteLength !== length) throw offline(`${bytes.byteLength} of ${length} bytes`);
  return bytes;
}

/** What is asked of the desk. */
export interface SurveyOrder {
  readonly set: DataSet;
  readonly extent: Extent;
  readonly as: HandedAs;
  readonly stretch: number;
}

/** Ground that came, as one bundle; blocks that did not come are voids. */
async function bundleFiles({ set, extent, as, stretch }: SurveyOrder, came: Came): Promise<File[]> {
  const ground = groundOf(set, extent);
  const missing = ground.blocks.filter((b) => !came.has(blockKey(b)));
  const heights = assemble(ground, (b) => came.get(blockKey(b))?.heights ?? null);
  const map = mapOf(ground.blocks, (b) => came.get(blockKey(b))?.map ?? null);
  const files = await bundleOf(ground, heights, map, { as, stretch, name: 'tarrowen-fells', missing });
  return [...files].map(([name, bytes]) => new File([bytes as Uint8Array<ArrayBuffer>], name));
}

/** Ground that came becomes a project. */
export async function takeGround(order: SurveyOrder, came: Came): Promise<void> {
  const all = await bundleFiles(order, came);
  patchSession({ survey: false });
  await bringIn(allAsOne(all, all[0]!.name));
}

/** Ground that came, as a zip to keep. */
export async function groundZip(order: SurveyOrder, came: Came): Promise<File> {
  const all = await bundleFiles(order, came);
  const zip = await workers().zip(new Map(all.map((f) => [f.name, f]))).done;
  return new File([zip], 'tarrowen-fells.zip');
}
