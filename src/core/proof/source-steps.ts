import type { Recipe } from '../recipe';
import type { MeshProof, SquareProof } from './twin';
import type { ProofCheck } from './types';

/* What is said of the steps in which a source was read. */

/** Of a source of several files: each is the one that the recipe was made for, byte for byte. */
export function sourceFilesCheck({ source }: Recipe, sums: ReadonlyMap<string, string> | null): ProofCheck[] {
  const stated = (source.files ?? []).filter((f) => f.sha256 !== undefined);
  if (!sums || stated.length === 0) return [];
  const others = stated.filter((f) => sums.get(f.name) !== f.sha256).map((f) => f.name);
  return [
    others.length === 0
      ? { id: 'source-files', state: 'holds', message: `All ${stated.length} files of the source are unchanged.` }
      : {
          id: 'source-files',
          state: 'fault',
          message: `${others.slice(0, 3).join(', ')}${others.length > 3 ? ` and ${others.length - 3} more` : ''} ${others.length === 1 ? 'is' : 'are'} not what the pack was made from: ${others.length === 1 ? 'its' : 'their'} bytes have changed.`,
        },
  ];
}

/** Squares may differ by this share of what neighbours differ by: places between those that are projected exactly. */
const OF_NEIGHBOURS = 1e-3;

/** Squares are floats of 32 bits, made of floats: as much of a height is lost to that. */
const FLOAT = 2 ** -22;

/** Square metres against the coordinates that they were made of. */
export function squaresCheck({ places, largest, usual, highest }: SquareProof): ProofCheck {
  const fine = places > 0 && largest <= OF_NEIGHBOURS * usual + FLOAT * highest + 1e-3;
  return {
    id: 'squares',
    state: fine ? 'holds' : 'fault',
    message: fine
      ? `${places} squares were projected and worked out a second time from the file’s coordinates: the largest difference is ${largest.toPrecision(2)} of the file’s units.`
      : places === 0
        ? 'No square could be compared with the samples that it was made of.'
        : `Squares are not what the file’s samples give: the largest difference is ${largest.toPrecision(3)} of the file’s units, where neighbours differ by ${usual.toPrecision(3)} at most.`,
  };
}

/** A mesh seen from above, against its triangles. */
export function meshCheck({ places, wrong, first, size }: MeshProof): ProofCheck {
  const id = 'mesh';
  if (!size)
    return {
      id,
      state: 'fault',
      message: 'The raster is not as large as the mesh, its spacing and its volume make it.',
    };
  if (!first)
    return {
      id,
      state: 'holds',
      message: `${places} places were looked up among all triangles a second time: each holds the highest surface.`,
    };
  return {
    id,
    state: 'fault',
    message: `${wrong} of ${places} places don’t hold the highest surface of the mesh: column ${first.column}, row ${first.row} holds ${first.found} m, and the mesh has ${first.expected} m there.`,
  };
}
