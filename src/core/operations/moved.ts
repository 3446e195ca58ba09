import type { Stage } from './operation';
import { asFloats, afterHeights } from './heights';
import type { RasterInfo } from '../raster';

/** Where the first sample lies among those before, and how many there are now. */
export interface Window {
  readonly column: number;
  readonly row: number;
  readonly width: number;
  readonly height: number;
}

/** The stage after its ground was cut or added to: coordinates follow. Samples stay of the type that they have, unless ground is added. */
export function afterMove(stage: Stage, what: string, { column, row, width, height }: Window): Omit<Stage, 'samples'> {
  const { georeference, ...info } = stage.info;
  const added = column < 0 || row < 0 || column + width > info.width || row + height > info.height;
  const moved: RasterInfo = {
    ...info,
    width,
    height,
    ...(georeference
      ? {
          georeference: {
            ...georeference,
            x: georeference.x + column * georeference.dx,
            y: georeference.y - row * georeference.dy,
          },
        }
      : {}),
  };
  return { ...afterHeights(stage, what), info: added ? asFloats(moved) : moved };
}
