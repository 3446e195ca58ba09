import { planChain } from '../chain';
import { bytesOfRaw, type ReadingKey } from '../formats';
import { stepWords } from '../operations';
import type { RasterInfo } from '../raster';
import type { PlacedPart } from '../mosaic';
import { sourceReading, type Recipe, type SourceReading } from '../recipe';
import { meshOf } from './mesh';
import { withoutStep } from './steps';

/** What a source is, by its first bytes and the names of its files. */
export interface SourceLook {
  /** What its files take of a reading. */
  readonly takes: ReadingKey | null;
  /** Of its height files. */
  readonly names: readonly string[];
  /** Bytes of the first of them. */
  readonly size: number;
}

/** How another source is read in the place of the one before, and what of the choices does not go with it, in words. */
export interface KeptReading {
  readonly reading: SourceReading;
  readonly dropped: readonly string[];
}

const sameNames = (files: readonly { readonly name: string }[], names: readonly string[]): boolean =>
  files.length === names.length && files.every((f) => names.includes(f.name));

/**
 * The reading of a recipe for another source: each choice is kept where the new source is of the same kind, and named
 * where it is not. Several files are the same where they bear the same names.
 */
export function keptReading(recipe: Recipe, look: SourceLook): KeptReading {
  const { raw, files, mesh, partial } = sourceReading(recipe);
  const dropped: string[] = [];
  let reading: SourceReading = partial ? { partial } : {};
  if (raw) {
    if (look.takes === 'raw' && bytesOfRaw(raw) === look.size) reading = { ...reading, raw };
    else
      dropped.push(
        `the layout of the headerless file (${look.takes === 'raw' ? 'the new one has another length' : 'the new one says its own'})`,
      );
  }
  if (mesh) {
    if (look.takes === 'mesh') reading = { ...reading, mesh };
    else dropped.push('axis, unit and volume of the mesh (the new source is none)');
  }
  if (files) {
    // the bytes are others: so are their checksums
    if (sameNames(files, look.names)) reading = { ...reading, files: files.map(({ sha256: _, ...f }) => f) };
    else {
      const fitted = files.some((f) => (f.factor ?? 1) !== 1 || (f.shift ?? 0) !== 0);
      dropped.push(
        `where its ${files.length} files lie${fitted ? ', and the factors that fit them to each other' : ''} (the new files have other names)`,
      );
    }
  }
  return { reading, dropped };
}

interface NewSource {
  readonly info: RasterInfo;
  readonly placed?: readonly PlacedPart[];
}

/** The recipe for another source that was read so; steps that can't be done to it go, and are named. */
export function forSource(
  recipe: Recipe,
  reading: SourceReading,
  { info, placed }: NewSource,
): { readonly recipe: Recipe; readonly dropped: readonly string[] } {
  const { raw: _, files: __, mesh: ___, partial: ____, ...source } = recipe.source;
  const laid = placed?.map(({ at: [x, y], ...f }) => ({ ...f, at: [x, y] as [number, number] }));
  let next: Recipe = {
    ...recipe,
    source: {
      ...source,
      ...(reading.raw ? { raw: reading.raw } : {}),
      ...(reading.partial ? { partial: reading.partial } : {}),
      ...(laid ? { files: laid } : {}),
      ...(info.mesh ? { mesh: meshOf(info.mesh) } : {}),
    },
  };
  const dropped: string[] = [];
  for (;;) {
    const { refusal } = planChain(next, info);
    const step = refusal ? next.steps[refusal.index] : undefined;
    if (!refusal || !step) return { recipe: next, dropped };
    dropped.push(`a step: ${stepWords(step)} (${refusal.error.found})`);
    next = withoutStep(next, refusal.index);
  }
}
