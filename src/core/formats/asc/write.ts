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
  const lines = [
    `ncols ${width}`,
    `nrows ${height}`,
    `xllcenter ${origin[0]}`,
    `yllcenter ${origin[1] - (height - 1) * dy}`,
    ...(square ? [`cellsize ${dx}`] : [`dx ${dx}`, `dy ${dy}`]),
    `NODATA_value ${NO_DATA}`,
  ];
  await sink.write(new TextEncoder().encode(`${lines.join('\n')}\n`));
  return {
    write: (codes) => {
      const out = new Uint8Array(codes.length * MOST_BYTES);
      let end = 0;
      for (let i = 0; i < codes.length; i++) {
        end = putNumber(out, end, codes[i]!);
        out[end++] = (i + 1) % width === 0 ? LINE_BREAK : BLANK;
      }
      return sink.write(out.subarray(0, end));
    },
    close: () => sink.close(),
  };
}

const [LINE_BREAK, BLANK, MINUS, POINT, ZERO] = [10, 32, 45, 46, 48];
/** A number in text with what is behind it: a sign, nine digits, a point, and an exponent at most. */
const MOST_BYTES = 20;
/** Decimals that tell most heights from their neighbours: floats of 32 bits from 64 metres on. */
const DECIMALS = 5;
const SCALE = 10 ** DECIMALS;
/** Whole parts are written as whole numbers of 32 bits. */
const MOST_WHOLE = 1e9;

/**
 * Writes digits that give the float back; where the next number goes. By whole numbers: making strings of doubles took
 * longer than all else together.
 */
function putNumber(out: Uint8Array, at: number, value: number): number {
  const scaled = Math.round(Math.abs(value) * SCALE);
  const whole = Math.floor(scaled / SCALE);
  if (whole >= MOST_WHOLE || Math.fround(scaled / SCALE) !== Math.abs(value))
    return putText(out, at, String(Number(value.toPrecision(DIGITS))));
  if (value < 0) out[at++] = MINUS;
  at = putDigits(out, at, whole, 1);
  let decimals = scaled - whole * SCALE;
  if (decimals === 0) return at;
  let places = DECIMALS;
  for (; decimals % 10 === 0; decimals /= 10) places--;
  out[at++] = POINT;
  return putDigits(out, at, decimals, places);
}

/** At least so many digits of a whole number. */
function putDigits(out: Uint8Array, at: number, value: number, least: number): number {
  let count = least;
  while (value >= 10 ** count) count++;
  for (let i = count - 1, rest = value; i >= 0; i--) {
    const tenth = Math.floor(rest / 10);
    out[at + i] = ZERO + rest - 10 * tenth;
    rest = tenth;
  }
  return at + count;
}

function putText(out: Uint8Array, at: number, text: string): number {
  for (const sign of text) out[at++] = sign.charCodeAt(0);
  return at;
}
