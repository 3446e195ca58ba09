import { apart, formatExtent, formatShort } from '../../base';
import type { Recipe } from '../../recipe';
import type { ProofCheck } from '../types';
import { storedBy } from './stored';
import { factsOfTarget, layersOf } from './targets';
import { codeOf, elevationOf, heldWithin, isCode, looseFor, slackAt, type ExpectedHeights } from './heights';
import type { GroundValue } from './ground';
import { standsAt, expectedLayout, neighboursOf, type ExpectedGrid, type SourceFacts } from './layout';
import type { Page } from './page';

/** Metres of one unit that positions and heights are typed in. */

const near = (a: number, b: number, slack: number): boolean => Math.abs(a - b) <= slack;

/** A few of many faults, in one sentence. */
function sentence(id: string, step: string, wrong: readonly string[], holds: string): ProofCheck {
  if (wrong.length === 0) return { id, step, state: 'holds', message: holds };
  const more = wrong.length > 4 ? `; and ${wrong.length - 4} more` : '';
  return { id, step, state: 'fault', message: `${wrong.slice(0, 4).join('; ')}${more}.` };
}

/** The list of files: each tile once, nothing else, and together the whole. */
export function checkFileList(page: Page, recipe: Recipe, grid: ExpectedGrid): ProofCheck {
  const wrong: string[] = [];
  const { format, byteOrder, rows } = recipe.output;
  const stored = storedBy(recipe);
  const listed = new Map<string, number>();
  for (const f of page.files) listed.set(f.name, (listed.get(f.name) ?? 0) + 1);
  for (const [name, times] of listed) if (times > 1) wrong.push(`${name} is listed ${times} times`);
  const expected = new Map(grid.tiles.map((t) => [t.name, t]));
  for (const name of listed.keys())
    if (!expected.has(name)) wrong.push(`${name} is listed and is no tile of the recipe`);
  for (const t of grid.tiles) if (!listed.has(t.name)) wrong.push(`${t.name} is not listed`);
  for (const f of page.files) {
    const t = expected.get(f.name);
    if (!t) continue;
    const { x, y, width, height } = f.window;
    if (x !== t.x || y !== t.y || width !== t.width || height !== t.height)
      wrong.push(
        `${f.name} is said to lie at ${x}, ${y} with ${width} × ${height} vertices, not at ${t.x}, ${t.y} with ${t.width} × ${t.height}`,
      );
    else if (f.width !== t.width || f.height !== t.height)
      wrong.push(`${f.name} is said to hold ${f.width} × ${f.height} samples, not ${t.width} × ${t.height}`);
    else if (f.column !== t.column || f.row !== t.row)
      wrong.push(`${f.name} is said to be column ${f.column}, row ${f.row}, not column ${t.column}, row ${t.row}`);
    else if (
      f.format !== format ||
      f.bitDepth !== stored.bits ||
      f.sampleType !== stored.type ||
      f.byteOrder !== (format === 'raw' && stored.bits > 8 ? byteOrder : null) ||
      f.rows !== (format === 'raw' ? rows : 'north')
    )
      wrong.push(`${f.name} is said to be stored in another way than the recipe says`);
    if (f.sha256 === undefined) wrong.push(`${f.name} has no checksum`);
  }
  const last = grid.tiles.at(-1);
  if (last && (last.x + last.width !== grid.width || last.y + last.height !== grid.height))
    wrong.push(`${grid.across} × ${grid.down} tiles do not make ${grid.width} × ${grid.height} vertices`);
  return sentence(
    'list',
    'split',
    wrong,
    grid.tiles.length === 1
      ? `One file is listed, with all ${grid.width} × ${grid.height} vertices.`
      : `${grid.tiles.length} files are listed, each tile once; together they cover all ${grid.width} × ${grid.height} vertices.`,
  );
}

type RasterFacts = Omit<SourceFacts, 'file' | 'spacing'>;

/** Size, spacing, extent, split, layout and the file's own facts. */
export function checkGrid(
  page: Page,
  recipe: Recipe,
  grid: ExpectedGrid,
  { source, entering }: { readonly source: RasterFacts; readonly entering: Omit<SourceFacts, 'file'> },
  explained: ReadonlySet<'ground' | 'heights'>,
): ProofCheck {
  const wrong: string[] = [];
  const { fit, tiles } = page;
  if (recipe.name !== undefined && page.name !== recipe.name)
    wrong.push(`the page is of ${page.name}, the recipe of ${recipe.name}`);
  const named = typeof recipe.target === 'string' ? recipe.target : recipe.target.id;
  if (page.target !== named) wrong.push(`the page is for ${page.target}, the recipe for ${named}`);
  if ((page.draft ?? undefined) !== recipe.draft)
    wrong.push(page.draft === null ? 'the page does not say that this is a draft' : 'the page calls this a draft');
  if (fit.width !== grid.width || fit.height !== grid.height)
    wrong.push(`the page has ${fit.width} × ${fit.height} vertices, the recipe ${grid.width} × ${grid.height}`);
  if (fit.method !== recipe.fit.method || fit.worldScale !== recipe.fit.worldScale)
    wrong.push('the page states another fit or world scale than the recipe');
  const slack = Math.min(grid.spacingX, grid.spacingY) / 1000;
  const ground = !explained.has('ground');
  if (
    ground &&
    (!near(fit.spacing.x, grid.spacingX, slack / grid.width) ||
      !near(fit.spacing.y, grid.spacingY, slack / grid.height))
  )
    wrong.push(
      `the spacing is ${formatShort(fit.spacing.x, 6)} × ${formatShort(fit.spacing.y, 6)} m; it should be ${formatShort(grid.spacingX, 6)} × ${formatShort(grid.spacingY, 6)} m`,
    );
  if (ground && !(near(fit.extent.x, grid.extentX, slack) && near(fit.extent.y, grid.extentY, slack)))
    wrong.push(
      `the extent is ${formatExtent(fit.extent.x, fit.extent.y)}; it should be ${formatExtent(grid.extentX, grid.extentY)}`,
    );
  if (
    tiles.across !== grid.across ||
    tiles.down !== grid.down ||
    tiles.edges !== grid.edges ||
    tiles.width !== grid.tileWidth ||
    tiles.height !== grid.tileHeight ||
    tiles.rows !== (recipe.split?.rows ?? 'north')
  )
    wrong.push('the split into tiles is not the recipe’s');
  const layout = expectedLayout(recipe, grid);
  const of = (l: Page['layout']): string =>
    l ? `${l.componentsX} × ${l.componentsY} components of ${l.patches} × ${l.patches} × ${l.quads}` : 'no layout';
  if (of(layout) !== of(page.layout)) wrong.push(`the page has ${of(page.layout)}; it should have ${of(layout)}`);
  const said = (what: string, a: RasterFacts, b: RasterFacts): void => {
    if (a.width !== b.width || a.height !== b.height || a.bitDepth !== b.bitDepth || a.sampleType !== b.sampleType)
      wrong.push(
        `the page speaks of ${what} of ${a.width} × ${a.height} samples, ${a.bitDepth} bit ${a.sampleType}; it is ${b.width} × ${b.height}, ${b.bitDepth} bit ${b.sampleType}`,
      );
  };
  // a page of an earlier version says of the source what enters the fit
  if (ground) said('a source', page.source, page.entering ? source : entering);
  if (ground && page.entering) said('ground that is fitted', page.entering, entering);
  if ((page.fit.registration ?? 'vertex') !== (grid.cells ? 'cell' : 'vertex'))
    wrong.push(`samples are said to be ${page.fit.registration === 'cell' ? 'cells' : 'vertices'}, and are none`);
  const { heights: kind } = factsOfTarget(recipe.target);
  const layers = layersOf(kind, recipe);
  const counted = layers ? [layers.top - layers.bottom + 1, layers.bottom, layers.top] : [];
  const told = [page.height.layers, page.height.bottomLayer, page.height.topLayer].filter((n) => n !== undefined);
  if (told.join() !== counted.join()) wrong.push('the page speaks of other layers than the recipe');
  if ((page.fit.turn === 180) !== grid.halfTurn) wrong.push('the turn that the target does is said otherwise');
  if (page.height.exaggeration !== recipe.height.exaggeration) wrong.push('the page states another exaggeration');
  return sentence(
    'grid',
    'fit',
    wrong,
    ground
      ? `Size, spacing and extent are the recipe’s: ${grid.width} × ${grid.height} vertices, ${formatShort(grid.spacingX, 6)} m apart.`
      : `There are as many vertices as the recipe asks for: ${grid.width} × ${grid.height}.`,
  );
}

/** What the target does whatever is typed, and whether the ground was made for it. */
export function checkTarget(recipe: Recipe, grid: ExpectedGrid): ProofCheck[] {
  const { spacing, halfTurn } = factsOfTarget(recipe.target);
  const wrong: string[] = [];
  if (
    spacing !== null &&
    !(near(grid.spacingX, spacing, spacing * 1e-5) && near(grid.spacingY, spacing, spacing * 1e-5))
  )
    wrong.push(
      `the map is ${formatShort(spacing, 3)} m from sample to sample, and the ground ${formatShort(grid.spacingX, 3)} × ${formatShort(grid.spacingY, 3)} m`,
    );
  if (halfTurn && !recipe.steps.some((s) => s.op === 'turn' && s.quarters === 2 && !s.off))
    wrong.push('the target turns the file by half a turn, and the ground was not turned for it');
  if (spacing === null && !halfTurn) return [];
  return [sentence('target', 'fit', wrong, 'The ground is made for what the target does whatever is typed.')];
}

/** Each tile placed once, where it belongs, touching one already placed. */
export function checkPlacement(page: Page, grid: ExpectedGrid): ProofCheck {
  const wrong: string[] = [];
  const { unit } = grid;
  const slack = Math.min(grid.spacingX, grid.spacingY) / 50;
  const placed = new Set<string>();
  const tiles = new Map(grid.tiles.map((t) => [t.name, t]));
  for (const [i, p] of page.placement.entries()) {
    const t = tiles.get(p.file);
    if (!t) wrong.push(`${p.file} is placed and is no tile`);
    else {
      const east = grid.east + t.x * grid.spacingX;
      const north = grid.north - t.y * grid.spacingY;
      const neighbours = neighboursOf(grid, t);
      if (placed.has(p.file)) wrong.push(`${p.file} is placed twice`);
      if (!near(p.east * unit, east, slack) || !near(p.north * unit, north, slack))
        wrong.push(
          `${p.file} is placed at ${formatShort(p.east, 2)}, ${formatShort(p.north, 2)}; it belongs at ${formatShort(east / unit, 2)}, ${formatShort(north / unit, 2)}`,
        );
      if (p.column !== t.column || p.row !== t.row || p.window.x !== t.x || p.window.y !== t.y)
        wrong.push(`${p.file} is placed as another column or row`);
      if (p.window.width !== t.width || p.window.height !== t.height)
        wrong.push(
          `${p.file} is placed with ${p.window.width} × ${p.window.height} vertices, not ${t.width} × ${t.height}`,
        );
      const components = page.layout
        ? [t.west * page.layout.componentsX, t.north * page.layout.componentsY]
        : [null, null];
      if (p.componentsEast !== components[0] || p.componentsSouth !== components[1])
        wrong.push(`${p.file} is offset by other components`);
      if (p.order !== i + 1) wrong.push(`${p.file} is number ${p.order}, not ${i + 1}`);
      if ([...p.neighbours].sort().join() !== [...neighbours].sort().join())
        wrong.push(`${p.file} has other neighbours`);
      else if (i > 0 && !neighbours.some((n) => placed.has(n)))
        wrong.push(`${p.file} touches nothing placed before it`);
      placed.add(p.file);
    }
  }
  for (const t of grid.tiles) if (!placed.has(t.name)) wrong.push(`${t.name} is not placed`);
  return sentence(
    'placement',
    'split',
    wrong,
    grid.tiles.length === 1
      ? 'The file is placed where it belongs.'
      : `All ${grid.tiles.length} tiles are placed once, where they belong.`,
  );
}

/** Ends of the range, zero, step: what the codes stand for. */
export function checkHeights(page: Page, heights: ExpectedHeights): ProofCheck {
  const wrong: string[] = [];
  const slack = heights.fine / 20;
  const { low, high, zero, step } = page.height;
  if (!near(low, heights.low, slack) || !near(high, heights.high, slack))
    wrong.push(
      `codes are said to stand for ${formatShort(low)} to ${formatShort(high)} m; it should be ${formatShort(heights.low)} to ${formatShort(heights.high)} m`,
    );
  if (!near(zero, heights.zero, slack))
    wrong.push(`${formatShort(zero)} m is said to lie at world zero; it should be ${formatShort(heights.zero)} m`);
  if (!near(step, heights.step, heights.step / 1e6)) wrong.push('one step is said to be another one');
  return sentence('range', 'height', wrong, holdsHeights(heights));
}

function holdsHeights({ as, low, high }: ExpectedHeights): string {
  if (as === 'metres') return 'Heights are stored as elevations in metres, as the recipe says.';
  const ends = `${formatShort(low)} to ${formatShort(high)} m, as the recipe says.`;
  return as === 'codes' ? `Codes stand for ${ends}` : `0 to 1 stands for ${ends}`;
}

const SPOTS = ['highest', 'lowest', 'north-west', 'north-east', 'south-west', 'south-east', 'centre'] as const;

/**
 * The check spots of the page: all of them, in their places, with the position, height and code that they must have.
 * `ground` is the fitted ground at each of them; null where there is no source.
 */
export function checkSpots(
  page: Page,
  grid: ExpectedGrid,
  heights: ExpectedHeights,
  ground: readonly (GroundValue | null)[] | null,
  explained: ReadonlySet<'ground' | 'heights'>,
): ProofCheck {
  const wrong: string[] = [];
  const { unit } = grid;
  const right = grid.width - 1;
  const bottom = grid.height - 1;
  const fixed: Record<string, readonly [number, number]> = {
    'north-west': [0, 0],
    'north-east': [right, 0],
    'south-west': [0, bottom],
    'south-east': [right, bottom],
    centre: [Math.floor(right / 2), Math.floor(bottom / 2)],
  };
  for (const id of SPOTS)
    if (page.spots.filter((s) => s.id === id).length !== 1) wrong.push(`the spot ${id} is missing or stands twice`);
  const slack = Math.min(grid.spacingX, grid.spacingY) / 50;
  page.spots.forEach((s, i) => {
    const place = Object.hasOwn(fixed, s.id) ? fixed[s.id] : undefined;
    const tile = grid.tiles.find((t) => t.name === s.file);
    if (place && (s.x !== place[0] || s.y !== place[1]))
      wrong.push(`${s.label} is said to be vertex ${s.x}, ${s.y}, not ${place[0]}, ${place[1]}`);
    if (!tile || s.x < tile.x || s.y < tile.y || s.x >= tile.x + tile.width || s.y >= tile.y + tile.height)
      wrong.push(`${s.label} does not lie in ${s.file}`);
    const [across, below] = standsAt(grid, s.x, s.y);
    const east = grid.east + across * grid.spacingX;
    const north = grid.north - below * grid.spacingY;
    if (!explained.has('ground') && !(near(s.east * unit, east, slack) && near(s.north * unit, north, slack)))
      wrong.push(
        `${s.label} is said to lie at ${formatShort(s.east, 2)}, ${formatShort(s.north, 2)}; it lies at ${formatShort(east / unit, 2)}, ${formatShort(north / unit, 2)}`,
      );
    if (explained.has('heights')) return;
    const value = ground?.[i] ?? null;
    const either = value?.kind === 'either';
    const filled =
      either &&
      heights.voids !== null &&
      s.elevation !== null &&
      near(s.elevation, heights.voids, slackAt(heights.voids, heights));
    const elevation = value ? (filled ? heights.voids : elevationOf(value, heights)) : s.elevation;
    if (elevation === null || s.elevation === null) {
      if (!either && (elevation !== s.elevation || s.code !== null))
        wrong.push(`${s.label} is a void, or should be one`);
      return;
    }
    const loosely = value ? looseFor(value, heights) : heights;
    if (!near(s.elevation, elevation, slackAt(elevation, loosely)))
      wrong.push(
        `${s.label} is said to lie at ${apart(s.elevation, elevation)} m; it lies at ${apart(elevation, s.elevation)} m`,
      );
    const expected = codeOf(elevation, loosely);
    if (!isCode(s.code, expected))
      wrong.push(
        `${s.label} is said to have ${heights.as === 'codes' ? 'code' : 'the height'} ${s.code ?? 'none'}; it has ${expected.code}`,
      );
    const shown = heldWithin(heights, elevation) - heights.zero;
    if (
      s.height === null ||
      !near(s.height * unit, shown, slackAt(elevation, loosely) + (expected.clipped ? 0 : heights.step / 2))
    )
      wrong.push(
        `${s.label} is said to stand at ${s.height === null ? 'no height' : formatShort(s.height, 2)}; it stands at ${formatShort(shown / unit, 2)}`,
      );
  });
  return sentence(
    'page-spots',
    'output',
    wrong,
    `On the page all ${page.spots.length} check spots stand with the position, height and code that ${ground ? 'recipe and source give' : 'its own values give'} them.`,
  );
}
