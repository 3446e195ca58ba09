import { LevelGridError } from '../core/base';
import { bestRungs, inventedShare, keptShare, ladder } from '../core/grid';
import { percent } from '../core/plan';
import { targetById } from '../core/targets';
import { table, type CommandResult } from './output';

/** The size ladder of a target against a source of so many samples per side. */
export function layouts(options: { samples: string; target: string }): CommandResult {
  const samples = Number(options.samples);
  if (!Number.isInteger(samples) || samples < 2 || samples > 1e6) {
    throw new LevelGridError('usage', {
      found: `"${options.samples}" samples`,
      expected: 'a whole number from 2 to 1000000',
      remedy: 'Give the samples per side of the source.',
    });
  }
  const target = targetById(options.target);
  const rungs = ladder(target.grid, samples, target.budgets.components);
  const best = bestRungs(rungs, 3).map((r) => r.vertices);
  const shown = rungs.filter((r) => target.wellWorn.includes(r.vertices) || best.includes(r.vertices) || r.default);
  const rows = shown.map((r) => [
    String(r.vertices),
    r.filled ? 'filled' : `rim ${r.rim}`,
    r.cut > 0 ? String(r.cut) : '',
    r.vertices === samples ? 'exact' : percent(keptShare(r.upsampling)),
    percent(inventedShare(r.upsampling)),
    r.layouts.map((l) => `${l.components} × ${l.components} of ${l.patches} × ${l.patches} × ${l.quads}`).join('; '),
    r.default ? 'a new project takes it' : best.includes(r.vertices) ? 'best filled' : '',
  ]);
  return {
    json: { samples, target: target.id, rungs },
    text:
      `${table(['Vertices', 'Padded', 'Cut', 'Kept a side', 'Invented', 'Components of patches of quads', ''], rows)}\n\n` +
      `${rungs.length} sizes in all; the well-worn and the best filled are shown. --json lists every one.`,
    fine: true,
  };
}
