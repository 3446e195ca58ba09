import { formatLength, formatNumber, formatShort, type Repair } from '../../base';
import { flattenedToFit, flatteningFactor } from '../../edits';
import { holdsCodes, trueCalibration } from '../../height';
import { ENCODINGS, HELD_BY, highestStored, lowestStored } from '../../raster';
import type { StoredType } from '../../operations';
import type { Recipe } from '../../recipe';
import { worldElevation } from '../card';
import type { ChecksInput, Say } from './input';
import { percent, plural } from './words';

export function heightChecks(input: ChecksInput, say: Say): void {
  const { recipe, target, range, ground, elevationOf, clipped, ends, flooded } = input;
  const { exaggeration, sea } = recipe.height;
  // of metres the range is not what is stored
  if (range.flat && target.encoding.stores !== 'metres') {
    const codes = holdsCodes(recipe.source.heights, ends);
    say(
      'height',
      'flat',
      codes ? 'caution' : 'note',
      'The ground has no height range; a range of 1 m is written, and every sample holds its lowest.',
      codes ? { repair: { label: 'keep the codes of the source', edit: 'range', args: { range: 'codes' } } } : {},
    );
  }
  if (exaggeration !== 1)
    say(
      'height',
      'exaggeration',
      'note',
      `Heights are multiplied by ${formatShort(exaggeration, 6)} about ${formatNumber(range.pivot, 2)} m: slopes are ${exaggeration > 1 ? 'steeper' : 'gentler'} than on the true ground.`,
    );
  precisionCheck(input, say);
  clippedCheck(input, say);
  if (sea !== undefined && ground) {
    const level = worldElevation(recipe, range, sea);
    const low = elevationOf(ground.datum + ground.min);
    const under = flooded ?? 0;
    if (level < low)
      say(
        'height',
        'sea',
        'caution',
        `Sea level lies ${formatLength(low - level)} under the lowest ground: no ground is under water.`,
        { repair: { label: 'leave the sea out', edit: 'sea', args: { elevation: null } } },
      );
    else if (under > 0.5)
      say(
        'height',
        'sea',
        'caution',
        `Sea level covers ${percent(under)} of the ground. Type another level under Height.`,
      );
    else say('height', 'sea', 'holds', `Sea level covers ${percent(under)} of the ground.`);
  }
  if (ground !== null && clipped.low === null && clipped.high === null)
    say('height', 'clipped', 'not-yet', 'Clipped samples are being counted.');
}

/** The step that counts is the larger of the source's own and the written one. */
function precisionCheck({ recipe, range, precision, target }: ChecksInput, say: Say): void {
  const { step, sourceStep, effectiveStep, terraceAt2Percent: terrace } = precision;
  const jitter = Math.round(precision.jitterPercent * 10) / 10;
  const fromSource = sourceStep !== null && sourceStep > step * 1.001;
  const where = fromSource ? ', the source’s own' : '';
  const words = `One height step is ${formatLength(effectiveStep)}${where}: on a slope of 2 % a terrace is ${formatShort(terrace, 2)} ${terrace === 1 ? 'sample' : 'samples'} wide, and even ground jitters by ${formatShort(jitter, 1)} %`;
  // a terrace wider than a sample on 2 % begins at a jitter of 2 %: whatever passes here has none
  if (jitter <= 0.5) {
    say('height', 'precision', 'holds', `${words}.`);
    return;
  }
  if (fromSource) {
    say(
      'height',
      'precision',
      'note',
      `${words}. Only a finer source would help; the file itself could hold ${formatLength(step)}.`,
    );
    return;
  }
  const held = HELD_BY[recipe.output.format];
  const better = target.encodings.find((id) => held.includes(id) && ENCODINGS[id].bits > target.encoding.bits);
  if (better !== undefined) {
    say('height', 'precision', 'caution', `${words}.`, {
      repair: { label: `store ${ENCODINGS[better].words}`, edit: 'output', args: { encoding: better } },
    });
    return;
  }
  const used = range.groundHigh - range.groundLow;
  const finer = used > 0 ? (range.high - range.low) / used : 1;
  if (finer > 1.1 || recipe.height.range === 'pinned' || recipe.height.range === 'codes')
    say('height', 'precision', 'caution', `${words}.`, {
      repair: {
        label: 'spend all codes on the ground',
        edit: 'spend-on-ground',
        args: {},
      },
    });
  else
    say(
      'height',
      'precision',
      'note',
      `${words}. ${formatNumber(target.highestCode + 1, 0)} codes over this range can’t be finer.`,
    );
}

/** True elevations, in metres, of the lowest and highest ground. */
function trueGround({ recipe, ground, range, elevationOf, entering: { stats } }: ChecksInput): {
  low: number;
  high: number;
} {
  const back = (elevation: number): number =>
    (range.pivot + (elevation - range.pivot) / recipe.height.exaggeration) / recipe.fit.worldScale;
  const low = ground ? ground.datum + ground.min : (stats?.min ?? 0);
  const high = ground ? ground.datum + ground.max : (stats?.max ?? 0);
  return { low: back(elevationOf(low)), high: back(elevationOf(high)) };
}

/** Of so many samples the ground is not what was asked for. */
const stateOf = (clipped: number): 'fault' | 'caution' => (clipped > 0.01 ? 'fault' : 'caution');

function clippedCheck(input: ChecksInput, say: Say): void {
  const { recipe, target, clipped, geometry, ends, range } = input;
  if (clipped.low === null || clipped.high === null) return;
  const count = clipped.low + clipped.high;
  if (count === 0) {
    say('height', 'clipped', 'holds', 'Every sample lies inside the height range: none is clipped.');
    return;
  }
  const share = count / (geometry.width * geometry.height);
  const sharp =
    recipe.fit.method === 'resample' && (recipe.fit.filter === 'lanczos3' || recipe.fit.filter === 'catmull-rom');
  const numbers = `${plural(clipped.low, 'sample')} below and ${formatNumber(clipped.high, 0)} above the height range (${percent(share, 2)} of all)`;
  const spot = clipped.low > clipped.high ? 'lowest' : 'highest';
  const state = stateOf(share);
  if (target.heights.kind === 'fixed-step') {
    const factor = flatteningFactor(recipe, trueGround(input));
    const most = formatLength(range.high - range.low);
    say('height', 'clipped', state, `Codes reach ${most} and no further: ${numbers} will be clipped.`, {
      spot,
      repair:
        factor === null
          ? null
          : {
              label: `flatten to fit: heights × ${formatShort(factor, 6)}`,
              edit: 'exaggeration',
              args: { exaggeration: factor },
            },
    });
    return;
  }
  if (recipe.height.range === 'source' && recipe.height.strategy === 'full' && sharp && !recipe.fit.clamp) {
    say('height', 'clipped', stateOf(share), `The sharp filter overshoots at edges: ${numbers} would be clipped.`, {
      spot: clipped.low > 0 ? 'lowest' : 'highest',
      repair: { label: 'hold overshoot within the source', edit: 'clamp', args: { clamp: true } },
    });
    return;
  }
  if (recipe.height.strategy === 'fixed') {
    const ground = trueGround(input);
    const factor = flatteningFactor(recipe, ground);
    say('height', 'clipped', state, `The ground does not fit the fixed scale: ${numbers} will be clipped.`, {
      spot,
      repair:
        factor === null
          ? { label: 'use the full range', edit: 'strategy', args: { strategy: 'full' } }
          : {
              label: `flatten to fit: heights × ${formatShort(factor, 6)}`,
              edit: 'flatten-to-fit',
              args: flatteningOf(flattenedToFit(recipe, ground)),
            },
    });
    return;
  }
  const wide = elevationsOfCodes(ends, recipe);
  say('height', 'clipped', state, `${numbers} will be clipped.`, {
    spot,
    repair:
      recipe.height.range === 'pinned' && wide
        ? { label: 'take the codes of the source', edit: 'range', args: { range: 'pinned', ...wide } }
        : { label: 'take the range of the ground', edit: 'range', args: { range: 'ground' } },
  });
}

/** True elevations of the lowest and highest code that the source can hold, where it holds codes. */
export function elevationsOfCodes(ends: StoredType, recipe: Recipe): { low: number; high: number } | null {
  const { heights } = recipe.source;
  if (!holdsCodes(heights, ends)) return null;
  const { unit, offset } = trueCalibration(heights, ends);
  return { low: offset + unit * lowestStored(ends), high: offset + unit * highestStored(ends) };
}

/** The factor and the anchor by which ground fits a fixed scale. */
const flatteningOf = ({ height: { exaggeration, anchor } }: Recipe): Repair['args'] => ({ exaggeration, ...anchor });
