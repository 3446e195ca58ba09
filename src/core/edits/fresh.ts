import type { RawGuess, RawLayout } from '../formats';
import { firstFit } from '../grid';
import type { Arrangement } from '../mosaic';
import { meshOf } from './mesh';
import { maybeOfSamples, notedRange } from '../notes';
import { groundSpacing, metresOfStored, type RasterInfo, type SourceStatistics } from '../raster';
import { parseRecipe, RECIPE_VERSION, recipeParts, type Assumable, type Recipe, type SourceHeights } from '../recipe';
import { firstOutput, targetOf } from '../targets';
import { suited } from './suited';

/** Where elevations start that nobody has said yet, and how far they reach. */
const PLACEHOLDER = { low: 0, high: 500, spacing: 1 } as const;

/** What a file says of itself, and how it was read where it doesn't. */
interface FreshSource {
  readonly info: RasterInfo;
  /** Null as long as only the header has been read. */
  readonly stats?: Pick<SourceStatistics, 'min' | 'max'> | null;
  readonly raw?: RawLayout;
  readonly arrangement?: Pick<Arrangement, 'parts'>;
  /** Left out where the layout was stated. */
  readonly guess?: RawGuess;
}

/**
 * A recipe for a file that nobody has said anything about yet: placeholders, each marked as such. A layout that was
 * stated is a choice; one that was guessed is none until it has been confirmed.
 */
export function freshRecipe(
  { info, stats = null, raw, guess, arrangement }: FreshSource,
  name: string,
  named: Recipe['target'] = 'component-grid',
): Recipe {
  const target = targetOf(named);
  const metres = info.sampleType === 'float' && (info.mesh !== undefined || !isShares(stats));
  const heights = scaledOf(info) ?? (metres ? metresOf(info) : codesOf(info));
  const { spacing, said } = spacingOf(info);
  const saidByNote = notedRange(info) !== null && (info.codes?.from ?? info.noted?.from) === info.noted?.from;
  const assumed: Assumable[] = [
    ...(heights.as === 'ends' && (saidByNote ? maybeOfSamples(info, stats) : !info.codes)
      ? (['low', 'high'] as const)
      : []),
    ...(heights.as === 'elevations' && !metres && info.unit === undefined ? (['unit'] as const) : []),
    ...(said ? [] : (['spacing'] as const)),
  ];
  const fresh = parseRecipe({
    version: RECIPE_VERSION,
    name: name.slice(0, 80),
    source: {
      heights,
      spacing,
      ...(assumed.length > 0 ? { assumed } : {}),
      ...(raw && !guess ? { raw } : {}),
      ...(info.partial ? { partial: true } : {}),
      ...(info.mesh ? { mesh: meshOf(info.mesh) } : {}),
      ...(arrangement ? { files: arrangement.parts } : {}),
    },
    target: named,
    fit: firstFit(target.grid, target.square, info, target.budgets),
    height: { range: metres ? 'ground' : 'source' },
    output: firstOutput(target),
  });
  return suited(fresh, target, info);
}

/**
 * Where the file itself says how an elevation follows from a stored value: null where it doesn't, counts downwards, or
 * means what no ground has.
 */
export function scaledOf(info: RasterInfo): SourceHeights | null {
  const metres = info.scaled && !info.codes ? metresOfStored(info) : null;
  if (!metres) return null;
  const heights = recipeParts.source.heights.safeParse({ as: 'step', step: metres.unit, base: metres.offset });
  return heights.success ? heights.data : null;
}

const metresOf = ({ stretched }: RasterInfo): SourceHeights => ({
  as: 'elevations',
  ...(stretched === undefined ? {} : { stretch: stretched }),
});

/** Floats that lie between 0 and 1 and differ are a normalised picture: no ground is that flat. */
function isShares(stats: FreshSource['stats']): boolean {
  const { min = null, max = null } = stats ?? {};
  return min !== null && max !== null && min >= 0 && max <= 1 && max > min;
}

/**
 * What the codes of a file stand for. Where it names their unit, that; signed ones are elevations by custom, in metres
 * until somebody says otherwise; the others say nothing.
 */
function codesOf(info: RasterInfo): SourceHeights {
  if (info.codes) {
    const { low, high, stretch } = info.codes;
    return { as: 'ends', low, high, ...(stretch === 1 ? {} : { stretch }) };
  }
  const range = info.sampleType === 'float' ? notedRange(info) : null;
  if (range) return { as: 'ends', ...range };
  const unit = info.unit ?? (info.sampleType === 'int' ? 'metre' : null);
  // no ground is as high as codes of 32 bits go: those are not metres
  const { stretched } = info;
  return unit === null || (info.unit === undefined && info.bitDepth > 16)
    ? { as: 'ends', low: PLACEHOLDER.low, high: PLACEHOLDER.high }
    : { as: 'elevations', unit, ...(stretched === undefined ? {} : { stretch: stretched }) };
}

/** Metres from sample to sample, and whether the file says so for both ways. */
function spacingOf(info: RasterInfo): { spacing: number; said: boolean } {
  const known = groundSpacing(info);
  if (known && known.north > 0) {
    const square = Math.abs(known.north / known.east - 1) <= 1e-3;
    return { spacing: known.north, said: square && !info.georeference?.degrees && !info.georeference?.scale };
  }
  // coordinates of an unknown unit are metres more often than not
  const { dy } = info.georeference ?? {};
  return { spacing: dy !== undefined && dy > 0 && dy <= 1e5 ? dy : PLACEHOLDER.spacing, said: false };
}
