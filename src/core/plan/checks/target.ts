import { formatExtent, formatShort, type Repair } from '../../base';
import type { ChecksInput, Say } from './input';

/** Spacings of the ground and of a target may differ by this share. */
const SAME_SPACING = 1e-6;

/** What a target does whatever is typed: its own spacing, its turn, its layers. */
export function targetChecks(input: ChecksInput, say: Say): void {
  spacingCheck(input, say);
  turnCheck(input, say);
  layersCheck(input, say);
  unusedCheck(input, say);
}

/** What is chosen of the height range where there is none to choose. */
function unusedCheck({ recipe: { height }, target }: ChecksInput, say: Say): void {
  const unused = (chosen: string, why: string, repair: Repair): void =>
    say('height', 'range-unused', 'caution', `${chosen} is not used: ${why}.`, { repair });
  const full: Repair = { label: 'take the full range', edit: 'strategy', args: { strategy: 'full' } };
  if (target.encoding.stores === 'metres') {
    const why = 'the files hold elevations in metres, which have no ends';
    if (height.strategy !== 'full') unused(height.strategy === 'fixed' ? 'The fixed scale' : 'Headroom', why, full);
    else if (height.range === 'pinned')
      unused('The pinned range', why, {
        label: 'take the range of the source',
        edit: 'range',
        args: { range: 'source' },
      });
  } else if (target.heights.kind === 'fixed-step' && height.strategy === 'headroom')
    unused('Headroom', 'how far apart the codes of this map lie is its own', full);
}

/** A map that has its own spacing shows the ground larger or smaller than it is, unless both are brought to one. */
function spacingCheck({ recipe, target, geometry: g }: ChecksInput, say: Say): void {
  const { spacing } = target;
  if (spacing === undefined || !(g.spacing.x > 0)) return;
  const times = spacing / g.spacing.x;
  if (Math.abs(times - 1) <= SAME_SPACING) {
    say('fit', 'own-spacing', 'holds', `The ground is as wide as the map: ${formatExtent(g.extent.x, g.extent.y)}.`);
    return;
  }
  const scale = recipe.fit.worldScale * times;
  const words =
    scale < 1 ? `a miniature at 1 : ${formatShort(1 / scale, 3)}` : `${formatShort(scale, 3)} times its size`;
  say(
    'fit',
    'own-spacing',
    'fault',
    `The map has ${formatShort(spacing, 3)} m from sample to sample whatever is imported; this ground has ${formatShort(g.spacing.x, 3)} m, so the map shows it ${formatShort(times, 3)} times as wide, and its slopes wrong.`,
    { repair: { label: `make it ${words}`, edit: 'world-scale', args: { scale } } },
  );
}

/** A target that turns its files by half a turn gets them turned. */
function turnCheck({ recipe, target, info }: ChecksInput, say: Say): void {
  if (!target.halfTurn) return;
  const turned = recipe.steps.some((s) => s.op === 'turn' && s.quarters === 2 && !s.off);
  if (turned) {
    say('clean', 'half-turn', 'holds', 'The target turns the file by half a turn, and the ground was turned for it.');
    return;
  }
  say(
    'clean',
    'half-turn',
    'fault',
    'The target turns every file by half a turn: unless the ground is turned first, north lies in the south.',
    {
      repair: {
        label: 'turn it by 180°',
        edit: 'add-step',
        args: { step: { op: 'turn', quarters: 2 }, source: { width: info.width, height: info.height } },
      },
    },
  );
}

/** One block stands for as much ground up as it does across, or the ground is stretched. */
function layersCheck({ recipe, target, range, geometry: g }: ChecksInput, say: Say): void {
  if (target.heights.kind !== 'layers') return;
  const { bottom = target.heights.bottom, top = target.heights.top } = recipe.height;
  const up = (range.high - range.low) / (top - bottom);
  const across = g.spacing.x;
  const words = `${top - bottom + 1} layers, ${formatShort(up, 3)} m each`;
  if (across > 0 && Math.abs(up / across - 1) > 0.05)
    say(
      'height',
      'layers',
      'caution',
      `${words}; one block is ${formatShort(across, 3)} m wide: in blocks the ground is ${formatShort(across / up, 2)} times as tall as it is.`,
    );
  else say('height', 'layers', 'holds', `${words}, as a block is wide.`);
}
