import { type ByteSink } from '../../base';
import type { MapPlace } from '../../raster';
import type { HeightWriter } from '../written-rows';

/** Stands for no height: lower than any ground. */
const NO_DATA = -99_999;
/** This many digits tell every float of 32 bits from its neighbours. */
const DIGITS = 9;

/**
 * Writes rows of heights as an ASCII grid: lines of a key and a number, then the rows from the north. The place is that of
 * the centre of the south-western sample. Where samples lie apart otherwise to the east than to the north both are named. `place`: rows run from west to east, the first in the north.
 */
export async function openAscii(
  sink: ByteSink,
  width: number,
  height: number,
  { origin, across, down }: Pick<MapPlace, 'origin' | 'across' | 'down'>,
): Promise<HeightWriter> {
  const [dx, dy] = [across[0], -down[1]];
  const square = Math.abs(dx - dy) <= 1e-9 * dx;
  const lines = (all: readonly string[]): Promise<void> => sink.write(new TextEncoder().encode(`${all.join('\n')}\n`));
  await lines([
    `ncols ${width}`,
    `nrows ${height}`,
    `xllcenter ${origin[0]}`,
    `yllcenter ${origin[1] - (height - 1) * dy}`,
    ...(square ? [`cellsize ${dx}`] : [`dx ${dx}`, `dy ${dy}`]),
    `NODATA_value ${NO_DATA}`,
  ]);
  return {
    write: (codes) =>
      lines(
        Array.from({ length: codes.length / width }, (_, r) =>
          Array.from(codes.subarray(r * width, (r + 1) * width), textOf).join(' '),
        ),
      ),
    close: () => sink.close(),
  };
}

/** Decimals that tell most heights from their neighbours: floats of 32 bits from 64 metres on. */
const DECIMALS = 1e5;

/** Digits that give the float back. */
function textOf(value: number): string {
  const short = Math.round(value * DECIMALS) / DECIMALS;
  return Math.fround(short) === value ? String(short) : String(Number(value.toPrecision(DIGITS)));
}
