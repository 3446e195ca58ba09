import type { PlacedBand, TwinStage } from './operation';

/** Where a sample of a raster `width` × `height` large goes: its column and row afterwards. */
type Goes = (column: number, row: number, width: number, height: number) => readonly [number, number];

/** A raster whose samples all go elsewhere; `across`: rows become columns. */
export function laid(before: TwinStage, across: boolean, goes: Goes): TwinStage {
  const { files = before, again = (stage: TwinStage) => stage } = before.laid ?? {};
  return { ...laidOnce(before, across, goes), laid: { files, again: (s) => laidOnce(again(s), across, goes) } };
}

function laidOnce(before: TwinStage, across: boolean, goes: Goes): TwinStage {
  const { width, height, samples } = before;
  return {
    width: across ? height : width,
    height: across ? width : height,
    georeference: null,
    pieces: null,
    samples: {
      files: samples.files,
      async *bands(job) {
        for await (const band of samples.bands(job)) yield moved(band, across, (c, r) => goes(c, r, width, height));
      },
    },
  };
}

/** A rectangle of samples in its new place. */
function moved(
  band: PlacedBand,
  across: boolean,
  goes: (c: number, r: number) => readonly [number, number],
): PlacedBand {
  const { x, y, rows, width, data } = band;
  const corners = [goes(x, y), goes(x + width - 1, y + rows - 1)];
  const left = Math.min(...corners.map(([c]) => c));
  const top = Math.min(...corners.map(([, r]) => r));
  const wide = across ? rows : width;
  const out = data.slice();
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < width; c++) {
      const [column, row] = goes(x + c, y + r);
      out[(row - top) * wide + column - left] = data[r * width + c] as number;
    }
  return { x: left, y: top, rows: across ? width : rows, width: wide, data: out };
}
