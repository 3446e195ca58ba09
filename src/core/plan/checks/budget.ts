import { formatNumber } from '../../base';
import { fewestComponents } from '../../grid';
import { affordableSize, sizeBelowCeiling, tiledRepair } from '../repairs';
import type { ChecksInput, Say } from './input';
import { plural, samplesOf } from './words';

export function budgetChecks({ recipe, target, info, geometry: g, tiles, choice }: ChecksInput, say: Say): void {
  const side = Math.max(tiles.tileWidth, tiles.tileHeight);
  const { verticesAdvised, verticesHard, components } = target.budgets;
  const tooMany = side > verticesHard;
  const own = recipe.fit.atMost;
  if (own !== undefined && side > own && !tooMany)
    say(
      'fit',
      'vertices-budget',
      'caution',
      `${side} ${samplesOf(target)} per side in one import, above your own ceiling of ${own}.`,
      { repair: sizeBelowCeiling(recipe, target, info) ?? tiledRepair(recipe, target, info) },
    );
  else if (tooMany || side > verticesAdvised)
    say(
      'fit',
      'vertices-budget',
      tooMany ? 'fault' : 'caution',
      tooMany
        ? `${side} ${samplesOf(target)} per side in one import; the target takes at most ${verticesHard}.`
        : `${side} ${samplesOf(target)} per side in one import; up to ${verticesAdvised} is advised.`,
      {
        repair: tiledRepair(recipe, target, {
          width: Math.min(info.width, g.width),
          height: Math.min(info.height, g.height),
        }),
      },
    );
  else
    say(
      'fit',
      'vertices-budget',
      'holds',
      own !== undefined && own <= verticesAdvised
        ? `${side} ${samplesOf(target)} per side, within your own ceiling of ${own}.`
        : `${side} ${samplesOf(target)} per side, within the ${verticesAdvised} advised for one import.`,
    );
  const { layout, options, reason } = choice;
  if (!layout || components === null) return;
  const each = layout.componentsX * layout.componentsY;
  const count = tiles.tiles.length;
  const all = each * count;
  const words =
    count > 1 ? `${formatNumber(each, 0)} a tile, ${plural(all, 'component')} in all` : plural(all, 'component');
  if (all > components) {
    const best = fewestComponents(options);
    const fewer =
      best && best.componentsX * best.componentsY * count <= components
        ? {
            label: `take ${best.componentsX} × ${best.componentsY} of ${best.patches} × ${best.patches} × ${best.quads}`,
            edit: 'layout',
            args: { quads: best.quads, patches: best.patches },
          }
        : affordableSize(recipe, target, info);
    say(
      'fit',
      'components-budget',
      fewer ? 'caution' : 'note',
      `${words}: ${formatNumber(all - components, 0)} above the budget of ${formatNumber(components, 0)}.`,
      { repair: fewer },
    );
  } else
    say(
      'fit',
      'components-budget',
      'holds',
      `${words}, within the budget of ${formatNumber(components, 0)}: ${reason ?? ''}.`,
    );
}
