import { formatLength, LevelGridError } from '../core/base';
import { bestRungs, inventedShare, keptShare, ladder, type Rung } from '../core/grid';
import { percent } from '../core/plan';
import { perSample, spansOf } from '../core/raster';
import { targetOf, type Target } from '../core/targets';
import { readTarget } from './files';
import { table, type CommandResult } from './output';

interface Options {
  readonly target: string;
  readonly samples?: string;
  readonly spacing?: string;
  readonly tiles?: string;
}

/** What a size comes to: the whole of all tiles, its extent, and what it does to the ground. */
interface Size extends Omit<Rung, 'rim' | 'cut' | 'filled' | 'upsampling'> {
  readonly whole: { readonly width: number; readonly height: number };
  /** Components of all tiles, in the layout with the fewest; null where the target has none. */
  readonly components: number | null;
  readonly spacing: number | null;
  readonly extent: { readonly x: number; readonly y: number } | null;
  readonly kept: number | null;
  readonly invented: number | null;
}

const usage = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('usage', { found, expected, remedy });

function wholeNumber(text: string | undefined): number | null {
  if (text === undefined) return null;
  const n = Number(text);
  if (Number.isInteger(n) && n >= 2 && n <= 1e6) return n;
  throw usage(`"${text}" samples`, 'a whole number from 2 to 1000000', 'Give the samples per side of the source.');
}

function metres(text: string | undefined): number | null {
  if (text === undefined) return null;
  const n = Number(text);
  if (Number.isFinite(n) && n > 0 && n <= 1e5) return n;
  throw usage(`"${text}" as spacing`, 'metres above 0', 'Give the metres from sample to sample of the source.');
}

function tilesOf(text: string | undefined): readonly [number, number] {
  if (text === undefined) return [1, 1];
  const [, across, down] = /^(\d{1,3})x(\d{1,3})$/.exec(text) ?? [];
  const found = [Number(across), Number(down)] as const;
  if (found.every((n) => n >= 1 && n <= 128)) return found;
  throw usage(`"${text}" as tiles`, 'tiles across and down, like 4x3', 'Give both, from 1 to 128.');
}

/** Sizes that a target accepts against a source of so many samples per side; of each, what all tiles come to. */
export async function layouts(options: Options): Promise<CommandResult> {
  const samples = wholeNumber(options.samples);
  const spacing = metres(options.spacing);
  const [across, down] = tilesOf(options.tiles);
  const target = targetOf(await readTarget(options.target));
  const cells = target.registration === 'cell';
  const whole = (side: number, tiles: number): number => (cells ? side * tiles : (side - 1) * tiles + 1);
  // a tile is held against its share of the source
  const share = samples === null ? null : Math.round((samples - 1) / Math.max(across, down)) + 1;
  const { components, verticesAdvised } = target.budgets;
  const budgets = { components: components === null ? null : components / (across * down), verticesAdvised };
  const rungs = ladder(target.grid, share ?? target.wellWorn.at(-1) ?? 1024, budgets);
  const sizes = rungs.map(({ rim, cut, filled, upsampling, ...rung }): Size & Partial<Rung> => {
    const all = { width: whole(rung.vertices, across), height: whole(rung.vertices, down) };
    const fewest = rung.layouts.reduce<number | null>(
      (least, l) => (least === null ? l.components ** 2 : Math.min(least, l.components ** 2)),
      null,
    );
    const lies = { source: 'vertex', result: target.registration, hold: 'extent' } as const;
    const per = samples === null ? 1 : perSample(samples, Math.max(all.width, all.height), lies);
    const each = target.spacing ?? (spacing === null ? null : spacing * per);
    return {
      ...rung,
      whole: all,
      components: fewest === null ? null : fewest * across * down,
      spacing: each,
      extent:
        each === null
          ? null
          : { x: each * spansOf(target.registration, all.width), y: each * spansOf(target.registration, all.height) },
      ...(samples === null ? {} : { rim, cut, filled, upsampling }),
      kept: samples === null ? null : keptShare(upsampling),
      invented: samples === null ? null : inventedShare(upsampling),
    };
  });
  return {
    json: { samples, spacing, tiles: [across, down], target: target.id, rungs: sizes },
    text: textOf(sizes, rungs, target, samples, across * down),
    fine: true,
  };
}

function textOf(
  sizes: readonly (Size & Partial<Rung>)[],
  rungs: readonly Rung[],
  target: Target,
  samples: number | null,
  tiles: number,
): string {
  const best = samples === null ? [] : bestRungs(rungs, 3).map((r) => r.vertices);
  const shown = sizes.filter((r) => target.wellWorn.includes(r.vertices) || best.includes(r.vertices) || r.default);
  const what = target.registration === 'cell' ? 'Cells' : 'Vertices';
  const rows = shown.map((r) => [
    String(r.vertices),
    ...(tiles > 1 ? [`${r.whole.width} × ${r.whole.height}`] : []),
    r.extent ? formatLength(r.extent.x) : '',
    r.filled === undefined ? '' : r.filled ? 'filled' : `rim ${r.rim}`,
    r.cut ? String(r.cut) : '',
    r.kept === null ? '' : r.vertices === samples ? 'exact' : percent(r.kept),
    r.invented === null ? '' : percent(r.invented),
    r.components === null
      ? ''
      : r.layouts
          .map((l) => `${l.components} × ${l.components} of ${l.patches} × ${l.patches} × ${l.quads}`)
          .join('; '),
    r.components === null ? '' : String(r.components),
    r.default && samples !== null ? 'a new project takes it' : best.includes(r.vertices) ? 'best filled' : '',
  ]);
  const heads = [
    what,
    ...(tiles > 1 ? ['Whole'] : []),
    'Extent',
    'Padded',
    'Cut',
    'Kept a side',
    'Invented',
    'Components of patches of quads',
    'In all',
    '',
  ];
  return `${table(heads, rows)}\n\n${rungs.length} sizes in all; the well-worn and the best filled are shown. --json lists every one.`;
}
