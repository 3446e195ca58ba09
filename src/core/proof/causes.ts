import type { Recipe, StepOf } from '../recipe';
import { expectedHeights, spacingOf, UNITS, type ExpectedHeights, type Page, type SourceFacts } from './twin';
import type { ProofCheck } from './types';

/*
 * What explains other faults: ground that was read or made otherwise has another size, spacing and card, and heights in
 * another unit have other values everywhere. The cause is named; what only follows from it is not given as a cause.
 */

/** What follows from a cause: sizes and places on the ground, or heights. */
export type Explained = ReadonlySet<'ground' | 'heights'>;

/** What is known of the ground: as its files hold it, and as it enters the fit. */
export interface GroundFacts {
  readonly source: Omit<SourceFacts, 'file' | 'spacing'>;
  readonly entering: Omit<SourceFacts, 'file'>;
}

export interface Causes {
  readonly checks: readonly ProofCheck[];
  readonly explained: Explained;
  /** Ground of another size was fitted: its samples can't be compared. */
  readonly unlike: boolean;
}

/** `claims`: what the heights of the page rest on. */
export function causesOf(
  page: Page,
  recipe: Recipe,
  facts: GroundFacts,
  claims: Parameters<typeof expectedHeights>[1],
): Causes {
  const size = sizeCause(page, recipe, facts);
  const ground = size ?? spacingCause(page, recipe, facts);
  const heights = unitCause(page, recipe, claims);
  return {
    unlike: size !== null,
    checks: [...(ground ? [ground] : []), ...(heights ? [heights] : [])],
    explained: new Set([...(ground ? (['ground'] as const) : []), ...(heights ? (['heights'] as const) : [])]),
  };
}

const FOLLOWS = 'Spacing, extent, places and the ground values of the card follow from that';

const sizeOf = ({ width, height }: { width: number; height: number }): string => `${width} × ${height}`;

/** Ground of another size than recipe and source give. */
function sizeCause(page: Page, recipe: Recipe, { source, entering }: GroundFacts): ProofCheck | null {
  const said = page.entering;
  // a page of an earlier version says of the source what enters the fit
  const lies = said ? source : entering;
  if (sizeOf(page.source) !== sizeOf(lies))
    return {
      id: 'read-otherwise',
      step: 'source',
      state: 'fault',
      message: `The pack was made of a source that was read otherwise: of ${sizeOf(page.source)} samples. ${readingOf(recipe)} it has ${sizeOf(lies)}. ${FOLLOWS}; no sample was compared.`,
    };
  if (!said || sizeOf(said) === sizeOf(entering)) return null;
  return {
    id: 'made-otherwise',
    step: 'steps',
    state: 'fault',
    message: `The pack was made with other steps: ${sizeOf(said)} samples, ${metres(said.spacing)} apart, enter its fit. ${stepsOf(recipe)} there are ${sizeOf(entering)}, ${metres(spacingOf(recipe, entering))} apart. ${FOLLOWS}; no sample was compared.`,
  };
}

/** Ground of the right size whose samples are said to lie further apart, or nearer. */
function spacingCause({ entering: said }: Page, recipe: Recipe, { entering }: GroundFacts): ProofCheck | null {
  const spacing = spacingOf(recipe, entering);
  if (!said || Math.abs(said.spacing - spacing) <= spacing * 1e-9) return null;
  return {
    id: 'spaced-otherwise',
    step: 'source',
    state: 'fault',
    message: `The pack was made with samples ${metres(said.spacing)} apart; by recipe and source they are ${metres(spacing)} apart. ${FOLLOWS}.`,
  };
}

const metres = (value: number): string => `${Number(value.toPrecision(7))} m`;

/** How the recipe has the source read, as the beginning of a sentence. */
function readingOf({ source: { files, mesh, raw } }: Recipe): string {
  if (files) return `With its ${files.length} files where the recipe has them`;
  if (mesh) return `Seen from above as a mesh whose ${mesh.up ?? 'z'} is up`;
  if (raw) return `With the layout of the recipe, ${sizeOf(raw)},`;
  return 'As the recipe has it read';
}

/** The steps of the recipe, as the beginning of a sentence. */
function stepsOf({ steps }: Recipe): string {
  const on = steps.flatMap((s, i) =>
    s.off ? [] : [`step ${i + 1} (${s.op}${s.op === 'reproject' ? zoneOf(s) : ''})`],
  );
  return on.length === 0 ? 'The recipe has no steps: without any' : `By the recipe, with ${on.join(' and ')},`;
}

const zoneOf = ({ zone, south, spacing }: StepOf<'reproject'>): string =>
  ` to zone ${zone} ${south ? 'south' : 'north'}, ${spacing === 'rung' ? 'at the vertices' : `squares of ${spacing} m`}`;

/** Heights that are right in another unit than the recipe says. */
function unitCause(page: Page, recipe: Recipe, claims: Parameters<typeof expectedHeights>[1]): ProofCheck | null {
  const { heights } = recipe.source;
  if (heights.as !== 'elevations') return null;
  const own = heights.unit ?? 'metre';
  const { low, high } = page.height;
  const fits = (e: ExpectedHeights): boolean =>
    Math.abs(e.low - low) <= e.fine / 20 && Math.abs(e.high - high) <= e.fine / 20;
  if (fits(expectedHeights(recipe, claims))) return null;
  const inUnit = (unit: keyof typeof UNITS): Recipe =>
    // eslint-disable-next-line no-restricted-syntax -- only asked what it would give
    ({ ...recipe, source: { ...recipe.source, heights: { ...heights, unit } } });
  const units = Object.keys(UNITS) as (keyof typeof UNITS)[];
  const other = units.find((unit) => unit !== own && fits(expectedHeights(inUnit(unit), claims)));
  if (other === undefined) return null;
  return {
    id: 'unit',
    step: 'source',
    state: 'fault',
    message: `The pack was made as if heights came in ${words(other)}; the recipe says ${words(own)}. Its heights, and the height values of the card, follow from that.`,
  };
}

const words = (unit: keyof typeof UNITS): string =>
  ({
    metre: 'metres',
    decimetre: 'decimetres',
    centimetre: 'centimetres',
    foot: 'feet',
    'us-survey-foot': 'US survey feet',
  })[unit];

/** Faults without those that only follow from a cause. */
export const withoutFollowing = (checks: readonly ProofCheck[], explained: Explained): ProofCheck[] =>
  checks.filter((c) => !(explained.has('heights') && c.state === 'fault' && c.step === 'height'));

/** Where in the making of a pack a check belongs: what comes first may be the cause of what comes later. */
const ORDER = ['source', 'steps', 'fit', 'height', 'split', 'output'];
const rank = ({ step }: ProofCheck): number => ORDER.indexOf(step.split('.')[0] ?? '');

/** Checks in the order in which a pack is made, so that the cause stands before what follows from it. */
export const byMaking = (checks: readonly ProofCheck[]): ProofCheck[] => [...checks].sort((a, b) => rank(a) - rank(b));
