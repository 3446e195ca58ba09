import { LevelGridError } from '../core/base';
import { holdersOf, type Lying } from '../core/mosaic';
import { openReading } from '../core/run';
import { heightSources } from './files';
import type { CommandResult } from './output';

/** Which of several files, also in archives, holds a place. */
export async function whereCommand(files: readonly string[], options: { place: string }): Promise<CommandResult> {
  const [east = NaN, north = NaN, ...others] = options.place.split(',').map(Number);
  if (!Number.isFinite(east) || !Number.isFinite(north) || others.length > 0)
    throw new LevelGridError('usage', {
      found: `"${options.place}" as a place`,
      expected: 'EAST,NORTH in the units of the files',
      remedy: 'Example: --place 80.45,-47.32',
    });
  const source = await heightSources(files);
  const rasters: Lying[] = [];
  for (const one of source.parts ?? [source]) {
    const { info } = await openReading(one, {});
    rasters.push({ name: one.name, width: info.width, height: info.height, georeference: info.georeference });
  }
  const holders = holdersOf(rasters, east, north);
  const silent = rasters.filter((r) => !r.georeference).map((r) => r.name);
  return {
    json: { place: { east, north }, holders, silent },
    text: [
      ...(holders.length > 0
        ? holders.map((h) => `${h.name}: column ${h.column}, row ${h.row}`)
        : ['None of them holds this place.']),
      ...(silent.length > 0 ? [`${silent.join(', ')}: not said where they lie`] : []),
    ].join('\n'),
    fine: true,
  };
}
