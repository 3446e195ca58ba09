import { LevelGridError, type ByteSource } from '../../base';
import {
  sampleBytes,
  samplesOver,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type SampleType,
  type StoredSamples,
} from '../../raster';
import { bandsOfBlocks, checkSize } from '../blocks';
import type { HeightFormat } from '../format';
import { MAX_BLOCKS, parseOpening, readDirectories, type Directory } from './directory';
import { readGeo, type GeoFacts } from './geo';
import type { Layout } from './layout';
import { copySamples, undoPredictor } from './samples';
import { NOT_READ, READ, unpack } from './unpack';

/**
 * TIFF, BigTIFF and GeoTIFF: whole numbers and floats of 8 to 64 bits, strips and tiles, no compression, LZW, Deflate,
 * PackBits, predictors 1 to 3. Our own reader: a band at a time, nothing allocated that a header merely claims, and
 * every fault with its place.
 */
export const tiffFormat: HeightFormat = {
  id: 'tiff',
  name: 'TIFF',
  endings: ['tif', 'tiff', 'gtiff'],
  sniff: ({ head }) => parseOpening(head) !== null,
  open: openTiff,
};

async function openTiff(source: ByteSource): Promise<OpenRaster> {
  const opening = parseOpening(await source.read(0, 16));
  if (!opening)
    throw new LevelGridError('corrupt', {
      found: 'the first bytes of no TIFF',
      expected: 'II or MM, then 42 or 43',
      remedy: 'Export the file again.',
    });
  const all = await readDirectories(source, opening);
  // smaller copies of a picture are marked as such
  const full: Directory[] = [];
  for (const d of all) if (((await d.number('subfile', 0)) & 1) === 0) full.push(d);
  const directory = full[0] ?? all[0];
  if (!directory) throw unsupported('a file without a picture', 'at least one', 'Export the file again.');
  const layout = await readLayout(directory);
  const samples = await directory.number('samples', 1);
  const geo = await readGeo(directory);
  const { width, height, bits, type, noData } = layout;
  const info: RasterInfo = {
    format: 'tiff',
    width,
    height,
    channels: samples,
    bitDepth: bits,
    sampleType: type,
    byteOrder: bits > 8 ? (layout.little ? 'little' : 'big') : null,
    ...(noData !== null ? { noData, mayHoldVoids: true } : {}),
    ...(geo.georeference ? { georeference: geo.georeference } : {}),
    ...(geo.registration ? { registration: geo.registration } : {}),
    ...(geo.unit ? { unit: geo.unit } : {}),
    ...(full.length > 1 ? { pages: full.length } : {}),
    warnings: warningsOf(
      layout,
      samples,
      full.length,
      geo,
      (await directory.numbers('extraSamples')).includes(ASSOCIATED),
    ),
  };
  checkSize(width, height, layout.blockHeight * Math.max(width, layout.blockWidth) * 8);
  checkSize(width, height, (layout.blockHeight * layout.blockWidth * layout.together * bits) / 8);
  const across = Math.ceil(width / layout.blockWidth);
  const blocks = across * Math.ceil(height / layout.blockHeight);
  const [offsets, counts] = layout.tiled
    ? (['tileOffsets', 'tileBytes'] as const)
    : (['stripOffsets', 'stripBytes'] as const);
  if (blocks > MAX_BLOCKS || directory.count(offsets) < blocks)
    throw new LevelGridError('corrupt', {
      found: `places of ${directory.count(offsets)} blocks`,
      expected: `${blocks} for ${width} × ${height} samples`,
      remedy: 'The file is damaged: export or copy it again.',
    });
  const bytes = sampleBytes(info);
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const places = await directory.numbers(offsets, MAX_BLOCKS * 4);
      const sizes = await directory.numbers(counts, MAX_BLOCKS * 4);
      const allocate = (n: number): StoredSamples => samplesOver(info, new ArrayBuffer(n * bytes));
      const ahead = new ReadAhead(source, places, sizes);
      const decode = async (index: number, rows: number, into: StoredSamples): Promise<void> => {
        for (let t = 0; t < across; t++) {
          const n = index * across + t;
          await readBlock(ahead, layout, n, rows, into, t * layout.blockWidth);
        }
      };
      yield* bandsOfBlocks(info, layout.blockHeight, allocate, decode, job);
    },
  };
}

/** Larger blocks are not asked for before they are wanted: two of them are too much to hold. */
const MOST_AHEAD = 2 ** 24;

/** Packed blocks of a file; while one is worked on the next is being read. */
class ReadAhead {
  private next: { readonly number: number; readonly bytes: Promise<Uint8Array> } | null = null;

  constructor(
    readonly source: ByteSource,
    private readonly places: readonly number[],
    private readonly sizes: readonly number[],
  ) {}

  /** True where the file has no such block. */
  isHole = (number: number): boolean => (this.places[number] ?? 0) === 0 || this.sizes[number] === 0;

  /** Bytes of a block that lie at `place`; `size` where the file does not say how many. */
  async block(number: number, size: number): Promise<{ packed: Uint8Array; place: number; length: number }> {
    const place = this.places[number] ?? 0;
    // files without lengths are those without compression
    const length = this.sizes[number] ?? size;
    const packed = await (this.next?.number === number ? this.next.bytes : this.source.read(place, length));
    const after = number + 1;
    const stored = this.sizes[after];
    this.next = null;
    if (stored !== undefined && stored <= MOST_AHEAD && !this.isHole(after)) {
      const bytes = this.source.read(this.places[after]!, stored);
      // whoever stops early never asks for it; else the fault is told when it is asked for
      bytes.catch(() => undefined);
      this.next = { number: after, bytes };
    }
    return { packed, place, length };
  }
}

async function readBlock(
  ahead: ReadAhead,
  layout: Layout,
  number: number,
  rows: number,
  into: StoredSamples,
  left: number,
): Promise<void> {
  const { source } = ahead;
  const { blockWidth, blockHeight, bits, together, compression, width, tiled, noData } = layout;
  const wide = Math.min(blockWidth, width - left);
  if (ahead.isHole(number)) {
    // a block that was left out holds nothing
    for (let r = 0; r < rows; r++) into.fill(noData === null ? 0 : NaN, r * width + left, r * width + left + wide);
    return;
  }
  const rowBytes = (blockWidth * together * bits) / 8;
  // a tile is always whole; the last strip ends with the raster
  const size = rowBytes * (tiled ? blockHeight : rows);
  const { packed, place, length } = await ahead.block(number, size);
  if (packed.length < length)
    throw new LevelGridError('truncated', {
      file: source.name,
      found: `the end of the file in block ${number}`,
      expected: `${length} bytes from byte ${place} on`,
      remedy: 'The file is cut short: copy or export it again.',
    });
  const bytes = await unpack(compression, packed, size);
  undoPredictor(bytes, layout, tiled ? blockHeight : rows);
  copySamples(bytes, layout, rows, wide, into, left);
}

const unsupported = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('unsupported', { found, expected, remedy });

async function readLayout(d: Directory): Promise<Layout> {
  const width = await d.number('width', 0);
  const height = await d.number('height', 0);
  checkSize(width, height, 0);
  const samples = await d.number('samples', 1);
  const depths = await d.numbers('bits');
  const formats = await d.numbers('sampleFormat');
  const bits = depths[0] ?? 1;
  if (depths.some((b) => b !== bits))
    throw unsupported(
      `channels of ${[...new Set(depths)].slice(0, 4).join(', ')} bits`,
      'channels of one depth',
      'Export the heights alone.',
    );
  const type = ({ 1: 'uint', 2: 'int', 3: 'float', 4: 'uint' } as const)[formats[0] ?? 1];
  if (!type)
    throw unsupported(
      `samples of format ${formats[0] ?? 1}`,
      'whole numbers or floats',
      'Export the heights as floats of 32 bits.',
    );
  if (!(bits === 8 || bits === 16 || bits === 32 || bits === 64) || (type === 'float' && bits === 8))
    throw unsupported(
      `samples of ${bits} bits${type === 'float' ? ' (floats)' : ''}`,
      '8, 16, 32 or 64 bits; floats of 16, 32 or 64',
      'Export the heights with 16 bits or as floats of 32.',
    );
  const compression = await d.number('compression', 1);
  if (!READ[compression])
    throw unsupported(
      `a TIFF packed with ${NOT_READ[compression] ?? `method ${compression}`}`,
      'one of: none, LZW, Deflate, PackBits',
      'Export it again with Deflate, which keeps every height.',
    );
  if ((await d.number('fillOrder', 1)) !== 1)
    throw unsupported('bits in reverse order', 'the usual order', 'Export the file again.');
  const photometric = await d.number('photometric', 1);
  if (photometric === 3 || photometric > 4)
    throw unsupported(
      photometric === 3 ? 'a palette picture' : `a picture in colours of kind ${photometric}`,
      'grey samples',
      'Export the heights as one grey channel.',
    );
  const predictor = await d.number('predictor', 1);
  if (![1, 2, 3].includes(predictor) || (predictor === 3 && type !== 'float'))
    throw unsupported(`predictor ${predictor}`, '1, 2, or 3 for floats', 'Export it again without a predictor.');
  const planar = await d.number('planar', 1);
  const tiled = d.has('tileOffsets');
  const blockWidth = tiled ? await d.number('tileWidth', 0) : width;
  const blockHeight = tiled
    ? await d.number('tileHeight', 0)
    : Math.min(height, await d.number('rowsPerStrip', height));
  if (blockWidth < 1 || blockHeight < 1 || samples < 1 || samples > 4096)
    throw new LevelGridError('corrupt', {
      found: `blocks of ${blockWidth} × ${blockHeight} places with ${samples} samples`,
      expected: 'at least one each way',
      remedy: 'The file is damaged: export or copy it again.',
    });
  const text = await d.text('noData');
  return {
    width,
    height,
    bits,
    type,
    together: planar === 2 ? 1 : samples,
    compression,
    predictor,
    little: d.little,
    blockWidth,
    blockHeight,
    tiled,
    inverted: photometric === 0 && type === 'uint',
    noData: noDataOf(text, type, bits),
  };
}

/** The value that stands for no height, where samples of this type can hold it. */
function noDataOf(text: string | null, type: SampleType, bits: number): number | null {
  if (text === null || text.trim() === '') return null;
  const value = /^[+-]?nan$/i.test(text.trim()) ? NaN : Number(text);
  if (Number.isNaN(value)) return type === 'float' ? NaN : null;
  if (type === 'float') return bits === 32 ? Math.fround(value) : value;
  const [low, high] = type === 'int' ? [-(2 ** (bits - 1)), 2 ** (bits - 1) - 1] : [0, 2 ** bits - 1];
  return Number.isInteger(value) && value >= low && value <= high ? value : null;
}

/** An extra sample that the others are multiplied by (TIFF 6.0, section 18). */
const ASSOCIATED = 1;

function warningsOf(
  layout: Layout,
  samples: number,
  pages: number,
  geo: GeoFacts,
  multiplied: boolean,
): RasterWarning[] {
  const warnings: RasterWarning[] = [];
  if (samples > 1)
    warnings.push({
      code: 'colour',
      message: `The file holds ${samples} channels; heights are read from the first, and the others are left out.`,
    });
  if (multiplied && samples > 1)
    warnings.push({
      code: 'alpha',
      message:
        'The file has an alpha channel, by which the heights are multiplied: where alpha is below 1 they are too low. Export the heights without alpha.',
    });
  if (layout.inverted)
    warnings.push({
      code: 'structure',
      message: 'The file stores white as 0: its codes are turned round, so that bright is high.',
    });
  if (pages > 1)
    warnings.push({ code: 'pages', message: `The file holds ${pages} pictures of full size; the first is read.` });
  if (geo.turned)
    warnings.push({
      code: 'structure',
      message:
        'The file says that its rows do not run from west to east: it is read as it lies. Turn it to north before.',
    });
  return warnings;
}
