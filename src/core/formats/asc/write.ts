import { type ByteSink } from '../../base';
import type { Codes, MapPlace } from '../../raster';

/** Stands for no height: lower than any ground. */
const NO_DATA = -99_999;
/** This many digits tell every float of 32 bits from its neighbours. */
const DIGITS = 9;

/**
 * Writes rows of heights as an ASCII grid: lines of a key and a number, then the rows from the north. The place is that of
 * the centre of the south-western sample. Where samples lie apart otherwise to the east than to the north both are named.
 */
export class AsciiWriter {
  private constructor(
    private readonly sink: ByteSink,
    private readonly width: number,
  ) {}

  /** `place`: rows run from west to east, the first in the north. */
  static async open(
    sink: ByteSink,
    width: number,
    height: number,
    place: Pick<MapPlace, 'origin' | 'across' | 'down'>,
  ): Promise<AsciiWriter> {
    const { origin, across, down } = place;
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
    return new AsciiWriter(sink, width);
  }

  /** `codes` holds whole rows, any number of them. */
  async write(codes: Codes): Promise<void> {
    const { width } = this;
    const numbers = Array.from(codes, textOf);
    const rows = Array.from({ length: codes.length / width }, (_, r) =>
      numbers.slice(r * width, (r + 1) * width).join(' '),
    );
    await this.sink.write(new TextEncoder().encode(`${rows.join('\n')}\n`));
  }

  async close(): Promise<void> {
    await this.sink.close();
  }
}

/** As few digits as give the float back: most heights need no more than seven. */
function textOf(value: number): string {
  const short = Number(value.toPrecision(7));
  return Math.fround(short) === value ? String(short) : String(Number(value.toPrecision(DIGITS)));
}
