import { checkpoint, LevelGridError, type ByteSource, type InflatedWhole, type JobContext } from '../../base';
import { bandRows, type OpenRaster, type RasterInfo, type RasterWarning, type StoredBand } from '../../raster';
import { inflate, KernelInflater } from '../inflate';
import { codesAt, Unfilter16Kernel } from '../../wasm';
import { readChunks } from './chunks';
import { curveWarning, displayCurveOf, type DisplayCurve } from './display-curve';
import { collapseRow, type CollapseTally, type Transparency } from './collapse';
import { unfilter16, unfilterRow, unknownFilter } from './filters';
import type { FilteredRows } from './filtered-rows';
import { imageData, noChunks } from './image-data';
import { pngInto, RowsFromThread } from './two-threads';
import { fileWarnings } from './file-warnings';
import type { HeightFormat } from '../format';
import { checkLimits, COLOUR_TYPES, parseHeader, pixelBits, rowBytes, SIGNATURE, type PngHeader } from './header';

/** What comes before the image data. */
interface Front {
  readonly header: PngHeader;
  readonly palette: Uint8Array | null;
  readonly voids: Transparency | null;
  readonly curve: DisplayCurve | null;
  /** Lengths of transparency chunks that such a picture can't have, or no more: nothing is read from them. */
  readonly refused: readonly number[];
}

/** Reads the header and, where they may matter, the chunks up to the image data. */
async function readFront(source: ByteSource): Promise<Front> {
  let header: PngHeader | null = null;
  let palette: Uint8Array | null = null;
  let voids: Transparency | null = null;
  let transparent = false;
  let curve: DisplayCurve | null = null;
  const refused: number[] = [];
  for await (const chunk of readChunks(source)) {
    if (!header) {
      header = parseHeader(chunk.data);
      checkLimits(header, source.size);
    } else if (chunk.type === 'PLTE') palette ??= chunk.data;
    else if (chunk.type === 'tRNS') {
      const lengths = transparencyBytes(header, palette);
      const { length } = chunk.data;
      // the first one counts
      if (!transparent && lengths && length >= lengths[0] && length <= lengths[1]) {
        transparent = true;
        voids = transparencyOf(chunk.data, header);
      } else refused.push(length);
    } else if (chunk.type === 'IDAT') break;
    // sRGB says more than a power, which is written beside it for old programs
    else curve = chunk.type === 'sRGB' || !curve ? (displayCurveOf(chunk.type, chunk.data) ?? curve) : curve;
  }
  if (header && voids) checkLimits(header, source.size, true);
  if (header) return { header, palette, voids, refused, curve };
  throw new LevelGridError('truncated', {
    found: 'a PNG that ends before its header',
    expected: 'an IHDR chunk',
    remedy: 'The file is cut short: copy or export it again.',
  });
}

/** The lengths that transparency may have, in bytes; null where the colour type has none (PNG specification, 11.3.1.1). */
function transparencyBytes({ colourType }: PngHeader, palette: Uint8Array | null): readonly [number, number] | null {
  if (colourType === 0) return [2, 2];
  if (colourType === 2) return [6, 6];
  return colourType === 3 ? [1, (palette?.length ?? 0) / 3] : null;
}

/** PNG specification (third edition), 11.3.1.1; null where nothing is transparent. */
function transparencyOf(data: Uint8Array, { colourType, bitDepth }: PngHeader): Transparency | null {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const mask = 2 ** bitDepth - 1;
  if (colourType === 0) return { kind: 'grey', code: view.getUint16(0) & mask };
  if (colourType === 2)
    return {
      kind: 'colour',
      red: view.getUint16(0) & mask,
      green: view.getUint16(2) & mask,
      blue: view.getUint16(4) & mask,
    };
  const entries = new Set([...data.keys()].filter((i) => data[i] === 0));
  return entries.size > 0 ? { kind: 'palette', entries } : null;
}

/** PNG: grey of 1 to 16 bits, colour, palette, interlaced or not. */
export const pngFormat: HeightFormat = {
  id: 'png',
  name: 'PNG',
  endings: ['png'],
  // a file that ends within its signature is a PNG that was cut short
  sniff: ({ head }) => head.length >= 4 && SIGNATURE.every((b, i) => i >= head.length || head[i] === b),
  open: openPng,
  share: pngInto,
};

/**
 * Opens a PNG: header facts and limits only; pixels stream from `bands`. Two threads share a picture whose source has
 * another one to offer.
 */
export async function openPng(source: ByteSource): Promise<OpenRaster> {
  const front = await readFront(source);
  const { header, palette, voids, refused } = front;
  if (header.colourType === 3 && (!palette || palette.length === 0 || palette.length % 3 !== 0)) {
    throw new LevelGridError('corrupt', {
      found: palette ? `a palette of ${palette.length} bytes` : 'a palette picture without a palette',
      expected: 'a palette of three bytes for each colour, before the image data',
      remedy: 'Export it as a grey PNG: a palette holds 256 heights at the most.',
    });
  }
  const warnings = headerWarnings(header);
  if (front.curve) warnings.push(curveWarning(front.curve));
  for (const length of refused)
    warnings.push({
      code: 'structure',
      message: `The file names transparent colours in a way that a ${COLOUR_TYPES[header.colourType].name} picture can’t, or a second time (${length} bytes): that is left out, and makes no sample a void. Export it again.`,
    });
  const { samples } = COLOUR_TYPES[header.colourType];
  const info: RasterInfo = {
    format: 'png',
    width: header.width,
    height: header.height,
    channels: samples,
    bitDepth: header.bitDepth,
    sampleType: 'uint',
    byteOrder: null,
    ...(voids ? { mayHoldVoids: true } : {}),
    warnings,
  };
  const late: RasterWarning[] = [];
  return {
    info,
    lateWarnings: late,
    async *bands(job) {
      late.length = 0;
      yield* decode(source, front, late, job);
    },
  };
}

function headerWarnings(header: PngHeader): RasterWarning[] {
  const warnings: RasterWarning[] = [];
  if (header.colourType === 2 || header.colourType === 6) {
    warnings.push({
      code: 'colour',
      message:
        'A colour picture, not a grey one: heights are 0.2126 red + 0.7152 green + 0.0722 blue, rounded; where the three are equal, that value.',
    });
  }
  if (header.colourType === 3) {
    warnings.push({
      code: 'colour',
      message: 'A palette picture, not a grey one: heights are the brightness of the palette colours (8 bits).',
    });
  }
  if (header.colourType === 4 || header.colourType === 6) {
    warnings.push({
      code: 'alpha',
      message: 'The alpha channel is left out: heights come from the other channels alone.',
    });
  }
  return warnings;
}

async function* decode(
  source: ByteSource,
  { header, voids, palette }: Front,
  late: RasterWarning[],
  job: JobContext | undefined,
): AsyncGenerator<StoredBand> {
  const state = noChunks();
  let found: InflatedWhole = state;
  let spare = 0;
  const tally: CollapseTally = { coloured: 0, transparent: 0, beyondPalette: 0 };
  const grey = header.colourType === 0 && header.bitDepth === 16 && !header.interlaced && !voids;
  const most = bandRows(header.width) * (header.width * 2 + 1);
  const { thread } = source;
  const far = grey && thread ? RowsFromThread.start(thread, most) : null;
  const data = imageData(source, state);
  const near = grey && !far ? KernelInflater.create(data, most) : null;
  if (far) {
    try {
      yield* grey16Bands(far, header, job);
      spare = await far.finish();
      found = await far.found;
    } finally {
      far.end();
    }
  } else if (near) {
    yield* grey16Bands(near, header, job);
    spare = await near.finish();
  } else {
    const rows = new RowAssembler(inflate(data), header);
    if (header.interlaced) yield* interlacedBands(rows, header, palette, tally, voids, job);
    else if (grey) yield* plainGrey16Bands(rows, header, job);
    else yield* plainBands(rows, header, palette, tally, voids, job);
    // reading on to the end checks the remaining CRCs and the checksum of the compressed stream
    spare = await rows.finish();
  }
  if (tally.beyondPalette > 0)
    late.push({
      code: 'palette',
      message: `${tally.beyondPalette} samples have an index beyond the palette and were taken as black. Export it as a grey PNG.`,
    });
  late.push(...fileWarnings(found, spare, header));
}

/** Cuts the inflated stream into filtered rows and undoes the filters. */
class RowAssembler {
  private piece: Uint8Array = new Uint8Array(0);
  private at = 0;
  private readonly bpp: number;
  private delivered = 0;

  constructor(
    private readonly pieces: AsyncGenerator<Uint8Array, void, undefined>,
    private readonly header: PngHeader,
  ) {
    this.bpp = Math.max(1, pixelBits(header) >> 3);
  }

  /** Fills `row` with the next row, unfiltered against `above`. */
  async next(row: Uint8Array, above: Uint8Array): Promise<void> {
    if (this.at === this.piece.length) await this.more();
    const filter = this.piece[this.at++]!;
    for (let filled = 0; filled < row.length;) {
      if (this.at === this.piece.length) await this.more();
      const n = Math.min(row.length - filled, this.piece.length - this.at);
      row.set(this.piece.subarray(this.at, this.at + n), filled);
      filled += n;
      this.at += n;
    }
    unfilterRow(filter, row, above, this.bpp);
    this.delivered++;
  }

  /** Fills `out` with the next filtered bytes of the stream, `rows` rows of them. */
  async filtered(out: Uint8Array, rows: number): Promise<void> {
    const before = this.delivered;
    for (let filled = 0; filled < out.length;) {
      if (this.at === this.piece.length) await this.more();
      const n = Math.min(out.length - filled, this.piece.length - this.at);
      out.set(this.piece.subarray(this.at, this.at + n), filled);
      filled += n;
      this.at += n;
      this.delivered = before + Math.floor((filled * rows) / out.length);
    }
  }

  private async more(): Promise<void> {
    do {
      const { done, value } = await this.pieces.next();
      if (done) {
        throw missingRows(this.delivered, this.header);
      }
      this.piece = value;
      this.at = 0;
    } while (this.piece.length === 0);
  }

  /** Reads on to the end; the bytes that belong to no row. */
  async finish(): Promise<number> {
    let spare = this.piece.length - this.at;
    for (;;) {
      const { done, value } = await this.pieces.next();
      if (done) return spare;
      spare += value.length;
    }
  }
}

/** Rows of 16-bit grey, unfiltered where they lie. Whoever reads on to the end compares the last checksums. */
async function* grey16Bands(
  inflater: FilteredRows,
  header: PngHeader,
  job: JobContext | undefined,
): AsyncGenerator<StoredBand> {
  const { width, height } = header;
  const perBand = bandRows(width);
  const stride = width * 2 + 1;
  const unfilter = new Unfilter16Kernel(inflater.kernels, width, perBand);
  for (let y = 0; y < height; y += perBand) {
    checkpoint(job);
    const rows = Math.min(perBand, height - y);
    const there = await inflater.fill(rows * stride);
    if (there < rows * stride) throw missingRows(y + Math.floor(there / stride), header);
    const place = unfilter.rows(inflater.from, rows);
    if (typeof place === 'number') throw unknownFilter(place);
    inflater.skip(rows * stride);
    yield {
      y,
      rows,
      place,
      // looked up each time: the memory may have grown since
      get data() {
        return codesAt(place);
      },
    };
  }
}

/** The same without a kernel. */
async function* plainGrey16Bands(
  rows: RowAssembler,
  header: PngHeader,
  job: JobContext | undefined,
): AsyncGenerator<StoredBand> {
  const { width, height } = header;
  const perBand = bandRows(width);
  const above = new Uint8Array(width * 2);
  for (let y = 0; y < height; y += perBand) {
    checkpoint(job);
    const count = Math.min(perBand, height - y);
    const filtered = new Uint8Array(count * (width * 2 + 1));
    await rows.filtered(filtered, count);
    yield { y, rows: count, data: unfilter16(filtered, width, count, above) };
  }
}

function missingRows(found: number, header: PngHeader): LevelGridError {
  return new LevelGridError('truncated', {
    found: `image data for ${found} of ${header.height} rows`,
    expected: `${header.height} rows of ${header.width} samples`,
    remedy: 'The file is cut short: copy or export it again.',
  });
}

function samplesFor(
  header: PngHeader,
  count: number,
  voids: Transparency | null,
): Uint8Array | Uint16Array | Float32Array {
  // codes of 16 bits are exact in Float32, which can say that there is none
  if (voids) return new Float32Array(count);
  return header.bitDepth === 16 ? new Uint16Array(count) : new Uint8Array(count);
}

async function* plainBands(
  rows: RowAssembler,
  header: PngHeader,
  palette: Uint8Array | null,
  tally: CollapseTally,
  voids: Transparency | null,
  job: JobContext | undefined,
): AsyncGenerator<StoredBand> {
  const { width, height } = header;
  const perBand = bandRows(width);
  let row = new Uint8Array(rowBytes(header));
  let above = new Uint8Array(row.length);
  for (let y = 0; y < height; y += perBand) {
    checkpoint(job);
    const count = Math.min(perBand, height - y);
    const data = samplesFor(header, count * width, voids);
    for (let r = 0; r < count; r++) {
      await rows.next(row, above);
      collapseRow(data, r * width, row, header, width, palette, tally, voids);
      [row, above] = [above, row];
    }
    yield { y, rows: count, data };
  }
}

/** The seven passes of Adam7 (PNG specification, 8.2): first column, first row, column step, row step. */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
] as const;

async function* interlacedBands(
  rows: RowAssembler,
  header: PngHeader,
  palette: Uint8Array | null,
  tally: CollapseTally,
  voids: Transparency | null,
  job: JobContext | undefined,
): AsyncGenerator<StoredBand> {
  const { width, height } = header;
  const whole = samplesFor(header, width * height, voids);
  for (const [x0, y0, dx, dy] of PASSES) {
    const passWidth = Math.ceil((width - x0) / dx);
    const passHeight = Math.ceil((height - y0) / dy);
    if (passWidth <= 0 || passHeight <= 0) continue;
    let row = new Uint8Array(rowBytes(header, passWidth));
    let above = new Uint8Array(row.length);
    const line = samplesFor(header, passWidth, voids);
    for (let r = 0; r < passHeight; r++) {
      checkpoint(job);
      await rows.next(row, above);
      collapseRow(line, 0, row, header, passWidth, palette, tally, voids);
      const start = (y0 + r * dy) * width + x0;
      for (let i = 0; i < passWidth; i++) whole[start + i * dx] = line[i]!;
      [row, above] = [above, row];
    }
  }
  const perBand = bandRows(width);
  for (let y = 0; y < height; y += perBand) {
    const count = Math.min(perBand, height - y);
    yield { y, rows: count, data: whole.subarray(y * width, (y + count) * width) };
  }
}
