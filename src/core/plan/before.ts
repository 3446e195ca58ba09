import { LevelGridError } from '../base';
import type { Recipe } from '../recipe';
import type { SourceFacts } from './facts';

/** Bits of the heights that are expected, where there is no file yet. */
const EXPECTED_BITS = 16;

/** What a recipe says of a source that does not exist yet: its size. Throws where it says none. */
export function expectedSource({ name = 'terrain', source }: Recipe): SourceFacts {
  if (!source.size)
    throw new LevelGridError('recipe-value', {
      found: 'no source, and no size of one in the recipe',
      expected: 'a file, or source.size: samples across and down',
      remedy: 'Name the file, or say how large it will be.',
    });
  const [width, height] = source.size;
  const metres = source.heights.as === 'elevations' && source.heights.unit === undefined;
  return {
    file: name,
    info: {
      format: 'none',
      width,
      height,
      channels: 1,
      bitDepth: metres ? 32 : EXPECTED_BITS,
      sampleType: metres ? 'float' : 'uint',
      byteOrder: null,
      warnings: [],
    },
    warnings: [],
    stats: null,
  };
}
