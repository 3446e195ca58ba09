import path from 'node:path';
import { formatNumber, formatShort, LevelGridError } from '../core/base';
import {
  assemble,
  blockHeights,
  blockMap,
  bundleOf,
  DATA_SET_IDS,
  groundOf,
  HANDED_AS,
  mapOf,
  rangeOf,
  type DataSet,
  type Extent,
  type HandedAs,
} from '../core/survey';
import { DiskFolder } from '../io/node';
import { fromCaller } from './files';
import type { CommandResult } from './output';

const usage = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('usage', { found, expected, remedy });

function oneOf<T extends string>(value: string, all: readonly T[], option: string): T {
  const found = all.find((a) => a === value);
  if (found !== undefined) return found;
  throw usage(`"${value}" for ${option}`, all.join(', '), `Example: ${option} ${all[0] ?? ''}`);
}

function bordersOf(text: string): Extent {
  const numbers = text.split(',').map(Number);
  const [west = NaN, south = NaN, east = NaN, north = NaN] = numbers;
  if (numbers.length === 4 && numbers.every((n) => Number.isFinite(n))) return { west, south, east, north };
  throw usage(`"${text}" as borders`, 'WEST,SOUTH,EAST,NORTH in degrees', 'Example: --ground 80.4,-47.4,80.6,-47.3');
}

/** Ground of the made-up survey as files: heights, their record and the plain map. */
export async function surveyCommand(options: {
  set: string;
  ground: string;
  as: string;
  stretch: string;
  out: string;
}): Promise<CommandResult> {
  const set: DataSet = oneOf(options.set, DATA_SET_IDS, '--set');
  const as: HandedAs = oneOf(options.as, HANDED_AS, '--as');
  const stretch = Number(options.stretch);
  if (!(stretch >= 0.1 && stretch <= 20))
    throw usage(`"${options.stretch}" as a stretch`, '0.1 to 20', 'Example: --stretch 1.8');
  const ground = groundOf(set, bordersOf(options.ground));
  const heights = assemble(ground, (b) => blockHeights(set, b.column, b.row));
  const map = mapOf(ground.blocks, (b) => blockMap(b.column, b.row));
  const files = await bundleOf(ground, heights, map, { as, stretch, name: 'tarrowen-fells', missing: [] });
  const folder = await DiskFolder.open(fromCaller(options.out), { sources: [], replace: true });
  try {
    await folder.prepare([...files.keys()]);
    for (const [name, bytes] of files) {
      const sink = await folder.open(name);
      await sink.write(bytes);
      await sink.close();
    }
    await folder.commit();
  } finally {
    await folder.abort();
  }
  const { low, high, voids } = rangeOf(heights);
  const { width, height, extent } = ground;
  return {
    json: { files: [...files.keys()], width, height, extent, lowest: low, highest: high, voids },
    text: `${[...files.keys()].map((f) => path.join(options.out, f)).join(', ')}: ${width} × ${height} samples, ${formatShort(low, 1)} to ${formatShort(high, 1)} m, ${formatNumber(voids, 0)} voids`,
    fine: true,
  };
}
