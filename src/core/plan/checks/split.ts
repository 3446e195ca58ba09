import { wholeSide } from '../../tiles';
import type { ChecksInput, Say } from './input';

export function splitChecks({ recipe, target, tiles }: ChecksInput, say: Say): void {
  if (!target.formats.includes(recipe.output.format)) {
    say('split', 'format', 'fault', `The target reads ${target.formats.join(' or ')}, not ${recipe.output.format}.`, {
      repair: { label: `write ${target.formats[0] ?? ''}`, edit: 'output', args: { format: target.formats[0] } },
    });
  }
  if (tiles.tiles.length === 1) return;
  const { across, down, tileWidth, tileHeight } = tiles;
  if (tiles.edges === 'abutting') {
    const w = wholeSide(tileWidth, across, 'shared');
    const h = wholeSide(tileHeight, down, 'shared');
    say('split', 'edges', 'caution', 'Tiles do not share their edges: one quad is missing between neighbours.', {
      repair: {
        label: `share the edges: ${w === h ? w : `${w} × ${h}`} in all`,
        edit: 'tiles',
        args: { edges: 'shared', size: w === h ? w : [w, h] },
      },
    });
  } else
    say(
      'split',
      'edges',
      'holds',
      `${tiles.tiles.length} tiles share their edges: ${across} × ${down} of ${tileWidth === tileHeight ? tileWidth : `${tileWidth} × ${tileHeight}`} vertices.`,
    );
  say(
    'split',
    'row-order',
    'holds',
    `Rows are numbered from the ${recipe.split?.rows ?? 'north'}; the map shows each name in its place.`,
  );
}
