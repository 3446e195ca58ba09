import { formatShort } from '../../base';
import { scaledOf } from '../../edits';
import type { RasterInfo } from '../../raster';
import type { Recipe } from '../../recipe';
import type { Say } from './input';

/** Numbers that a file says and a recipe repeats. */
const same = (a: number, b: number): boolean => Math.abs(a - b) <= 1e-9 * Math.max(Math.abs(a), Math.abs(b));

/** What the file itself says of its stored values, against what the recipe takes them for. */
export function scaledCheck({ source: { heights } }: Recipe, info: RasterInfo, say: Say): void {
  const { scaled } = info;
  if (!scaled) return;
  const sum = scaled.base === 0 ? '' : ` ${scaled.base < 0 ? '−' : '+'} ${formatShort(Math.abs(scaled.base), 6)}`;
  const words = `The file says that an elevation is its stored value × ${formatShort(scaled.factor, 9)}${sum}`;
  const unit = info.unit === undefined ? ' (taken as metres, since it names no unit)' : '';
  const said = scaledOf(info);
  if (!said || said.as !== 'step') {
    const why = scaled.factor < 0 ? 'higher values lie lower: turn the heights over before' : 'no ground is like that';
    if (!info.codes) say('bring-in', 'source-scaled', 'caution', `${words}: ${why}. It is left out.`);
    return;
  }
  const taken = heights.as === 'step' && same(heights.step, said.step) && same(heights.base, said.base);
  if (taken) say('bring-in', 'source-scaled', 'note', `${words}${unit}; its heights are read so.`);
  else
    say('bring-in', 'source-scaled', 'caution', `${words}; here they are taken for something else.`, {
      repair: { label: 'take them as the file says', edit: 'heights', args: { heights: said } },
    });
}
