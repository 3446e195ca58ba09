import { formatShort } from '../../base';
import { FILLED_UP_TO, inventedShare, keptShare, LEAST_KEPT, SQUARE_WITHIN } from '../../grid';
import { changing, croppedFit, fillingSize, keepingSize, squareFit } from '../repairs';
import type { ChecksInput, Say } from './input';
import { percent, plural, samplesOf } from './words';

export function fitChecks(input: ChecksInput, say: Say): void {
  const { recipe, info, geometry: g } = input;
  if (recipe.fit.method === 'resample') fillCheck(input, say);
  else placeChecks(input, say);
  const stretch = g.spacing.x / (g.spacing.y || 1);
  if (g.spacing.x === 0 || g.spacing.y === 0) return;
  if (Math.abs(stretch - 1) > SQUARE_WITHIN)
    say(
      'fit',
      'square',
      'caution',
      `Quads are not square: east–west and north–south scale differ by ${formatShort(100 * Math.abs(stretch - 1), 2)} %, so the ground is stretched.`,
      { repair: changing(recipe, squareFit(recipe, info)) },
    );
  else say('fit', 'square', 'holds', `One spacing both ways: ${formatShort(g.spacing.x, 6)} m.`);
  const { worldScale } = recipe.fit;
  const { exaggeration } = recipe.height;
  if (worldScale !== 1)
    say(
      'fit',
      'miniature',
      'holds',
      `A miniature: ground and heights are both multiplied by ${formatShort(worldScale, 6)}${exaggeration === 1 ? ', so slopes stay true' : ''}.`,
    );
}

/** How much of the source a resampled grid keeps, and how much of the grid is invented. */
function fillCheck({ recipe, target, info, geometry: g }: ChecksInput, say: Say): void {
  if (info.width < 2 || info.height < 2) return;
  const up = { x: 1 / g.sourcePerVertex.x, y: 1 / g.sourcePerVertex.y };
  const called = samplesOf(target);
  const most = Math.max(up.x, up.y);
  const least = Math.min(up.x, up.y);
  const sizes = `${info.width} × ${info.height} samples on ${g.width} × ${g.height} ${called}`;
  if (least === 1 && most === 1) say('fit', 'fill', 'holds', `Exact: ${sizes}; no sample changes.`);
  else if (most > FILLED_UP_TO) {
    const repair = changing(recipe, fillingSize(recipe, target, info));
    say(
      'fit',
      'fill',
      repair ? 'caution' : 'note',
      `The grid has ${formatShort(most, 2)} ${called} for each interval of the source: ${percent(inventedShare(most))} of them are invented.`,
      { repair },
    );
  } else if (least < LEAST_KEPT) {
    const repair = recipe.draft === undefined ? changing(recipe, keepingSize(recipe, target, info)) : null;
    say(
      'fit',
      'fill',
      // a draft is meant to be coarse, and some targets take nothing larger
      repair ? 'caution' : 'note',
      `${percent(keptShare(least))} of the source’s samples a side are kept: ${sizes}. Finer detail is averaged away.`,
      { repair },
    );
  } else {
    const invented = most > 1 ? `, ${percent(inventedShare(most), 1)} of the ${called} lie between samples` : '';
    say(
      'fit',
      'fill',
      'holds',
      `${percent(keptShare(least), 1)} of the source’s samples a side are kept${invented}: ${sizes}.`,
    );
  }
}

function placeChecks({ recipe, target, info, geometry: g }: ChecksInput, say: Say): void {
  const { method } = recipe.fit;
  const rim = Math.max(g.rim.west + g.rim.east, g.rim.north + g.rim.south);
  const cut = Math.max(g.cut.west + g.cut.east, g.cut.north + g.cut.south);
  if (rim > 0) {
    const repair = croppedFit(recipe, target, info);
    say(
      'fit',
      'rim',
      repair ? 'caution' : 'note',
      `The grid is larger than the source: a rim of ${rim} ${rim === 1 ? 'vertex' : 'vertices'} has no ground of its own.`,
      { repair },
    );
  } else say('fit', 'rim', 'holds', 'The source covers every vertex: no rim.');
  if (cut === 0) return;
  const [width, height] = [Math.min(g.width, info.width), Math.min(g.height, info.height)];
  if (method === 'pad') {
    const at = [Math.floor((g.width - info.width) / 2), Math.floor((g.height - info.height) / 2)];
    const lies = recipe.fit.at[0] === at[0] && recipe.fit.at[1] === at[1];
    say(
      'fit',
      'cut',
      // where it lies in the middle already nothing better can be done
      lies ? 'note' : 'caution',
      `${plural(cut, 'sample')} of the source ${cut === 1 ? 'is' : 'are'} cut off along a side although the grid is padded.`,
      {
        repair: lies ? null : { label: 'lay it in the middle', edit: 'place', args: { column: at[0], row: at[1] } },
      },
    );
  } else
    say(
      'fit',
      'cut',
      Math.min(width / info.width, height / info.height) < LEAST_KEPT ? 'note' : 'holds',
      `${width} × ${height} of the source’s ${info.width} × ${info.height} samples are kept, ${percent((width * height) / (info.width * info.height))}; the rest is cut off.`,
    );
}
