import type { Outline } from '../places';
import type { DeferredPlaces, PlacedBand, TwinStage } from './operation';

/** Where a sample of a raster `width` × `height` large goes: its column and row afterwards. */
type Goes = (column: number, row: number, width: number, height: number) => readonly [number, number];

/** A raster whose samples all go elsewhere; `across`: rows become columns. */
export function laid(before: TwinStage, across: boolean, goes: Goes): TwinStage {
  const { files = before, again = (stage: TwinStage) => stage } = before.laid ?? {};
  return { ...laidOnce(before, across, goes), laid: { files, again: (s) => laidOnce(again(s), across, goes) } };
}

function laidOnce(before: TwinStage, across: boolean, goes: Goes): TwinStage {
  const { width, height, samples, deferred } = before;
  if (deferred) return laidLater(before, deferred, across, goes);
  return {
    width: across ? height : width,
    height: across ? width : height,
    georeference: null,
    pieces: null,
    samples: {
      files: samples.files,
      outlines: samples.outlines.map((o) => outlineOf(o, across, (c, r) => goes(c, r, width, height))),
      async *bands(job) {
        for await (const band of samples.bands(job)) yield moved(band, across, (c, r) => goes(c, r, width, height));
      },
    },
  };
}

/** Of ground that is not metric yet the samples stay, and where they are looked up goes elsewhere. */
function laidLater(before: TwinStage, deferred: DeferredPlaces, across: boolean, goes: Goes): TwinStage {
  const { width, height } = before;
  const [x, y] = goes(0, 0, width, height);
  const [ax, ay] = goes(1, 0, width, height);
  const [bx, by] = goes(0, 1, width, height);
  return {
    ...before,
    width: across ? height : width,
    height: across ? width : height,
    georeference: null,
    deferred: {
      ...deferred,
      // steps of one sample at right angles: going back is the same steps the other way round
      find: (u, v) => deferred.find((u - x) * (ax - x) + (v - y) * (ay - y), (u - x) * (bx - x) + (v - y) * (by - y)),
    },
  };
}

/** Where one sample goes. */
type Moves = (column: number, row: number) => readonly [number, number];

/** A rectangle in its new place. */
function outlineOf({ x, y, width, height }: Outline, across: boolean, goes: Moves): Outline {
  const corners = [goes(x, y), goes(x + width - 1, y + height - 1)];
  return {
    x: Math.min(...corners.map(([column]) => column)),
    y: Math.min(...corners.map(([, row]) => row)),
    width: across ? height : width,
    height: across ? width : height,
  };
}

/** The samples of a rectangle in its new place. */
function moved(band: PlacedBand, across: boolean, goes: Moves): PlacedBand {
  const { x, y, rows, width, data } = band;
  const { x: left, y: top } = outlineOf({ x, y, width, height: rows }, across, goes);
  const wide = across ? rows : width;
  const out = data.slice();
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < width; c++) {
      const [column, row] = goes(x + c, y + r);
      out[(row - top) * wide + column - left] = data[r * width + c] as number;
    }
  return { x: left, y: top, rows: across ? width : rows, width: wide, data: out };
}
