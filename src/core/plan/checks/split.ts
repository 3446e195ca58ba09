import { formatShort } from '../../base';
import { ENCODINGS, HELD_BY } from '../../raster';
import { wholeSide } from '../../tiles';
import type { ChecksInput, Say } from './input';

export function splitChecks({ recipe, target, tiles, geometry }: ChecksInput, say: Say): void {
  if (!target.formats.includes(recipe.output.format)) {
    say('split', 'format', 'fault', `The target reads ${target.formats.join(' or ')}, not ${recipe.output.format}.`, {
      repair: { label: `write ${target.formats[0] ?? ''}`, edit: 'output', args: { format: target.formats[0] } },
    });
  }
  const { encoding } = target;
  if (!target.encodings.includes(encoding.id)) {
    const other = target.encodings.find((id) => HELD_BY[recipe.output.format].includes(id));
    const reads = target.encodings.map((id) => ENCODINGS[id].words).join(' or ');
    say(
      'split',
      'encoding',
      'fault',
      `The target reads ${reads}, not ${encoding.words}.`,
      other ? { repair: { label: `store ${ENCODINGS[other].words}`, edit: 'output', args: { encoding: other } } } : {},
    );
  }
  if (target.rows && recipe.output.format === 'raw' && target.rows !== recipe.output.rows)
    say(
      'split',
      'rows',
      'fault',
      `The target reads rows from the ${target.rows}; the file begins in the ${recipe.output.rows}.`,
      {
        repair: { label: `begin in the ${target.rows}`, edit: 'output', args: { rows: target.rows } },
      },
    );
  const { x, y } = geometry.spacing;
  if (recipe.output.format === 'asc' && Math.abs(x - y) > 1e-9 * x) {
    const other = target.formats.find((f) => f !== 'asc');
    say(
      'split',
      'square-cells',
      'caution',
      `An ASCII grid usually has one distance between samples; here it is ${formatShort(x, 4)} m to the east and ${formatShort(y, 4)} m to the north. The file names both, which not every program reads.`,
      other ? { repair: { label: `write ${other.toUpperCase()}`, edit: 'output', args: { format: other } } } : {},
    );
  }
  if (tiles.tiles.length === 1) return;
  const { across, down, tileWidth, tileHeight } = tiles;
  if (target.registration === 'cell') {
    const shared = tiles.edges === 'shared';
    say(
      'split',
      'edges',
      shared ? 'fault' : 'holds',
      shared
        ? 'Tiles share their edges, and cells have none to share: a row of them would stand twice.'
        : `${tiles.tiles.length} tiles lie side by side: ${across} × ${down} of ${tileWidth} × ${tileHeight} cells.`,
      shared ? { repair: { label: 'lay them side by side', edit: 'tiles', args: { edges: 'abutting' } } } : {},
    );
  } else if (tiles.edges === 'abutting') {
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
