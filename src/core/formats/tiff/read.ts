import { LevelGridError, type ByteSource } from '../../base';
import {
  sampleBytes,
  samplesOver,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type StoredSamples,
} from '../../raster';
import { bandsOfBlocks, checkSize } from '../blocks';
import type { HeightFormat } from '../format';
import { decodeInto, SharedBlocks } from '../shared-blocks';
import { BlockDecoder, type BlockedRaster } from './blocks';
import { MAX_BLOCKS, parseOpening, readDirectories, type Directory } from './directory';
import { readScale } from './scale';
import { readGeo, type GeoFacts } from './geo';
import { readLayout, unsupported, type Layout } from './layout';

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
  share: tiffInto,
};

/** What a TIFF holds, before any sample is read. */
async function readRaster(source: ByteSource): Promise<BlockedRaster> {
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
  const scaled = await readScale(directory);
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
    ...(scaled ? { scaled } : {}),
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
  const offsets = layout.tiled ? 'tileOffsets' : 'stripOffsets';
  if (blocks > MAX_BLOCKS || directory.count(offsets) < blocks)
    throw new LevelGridError('corrupt', {
      found: `places of ${directory.count(offsets)} blocks`,
      expected: `${blocks} for ${width} × ${height} samples`,
      remedy: 'The file is damaged: export or copy it again.',
    });
  return { source, directory, layout, info, across, blocks };
}

async function openTiff(source: ByteSource): Promise<OpenRaster> {
  const raster = await readRaster(source);
  const { info, layout, across } = raster;
  const { width } = info;
  const bytes = sampleBytes(info);
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const allocate = (n: number): StoredSamples => samplesOver(info, new ArrayBuffer(n * bytes));
      const shared = SharedBlocks.start(source, info, await BlockDecoder.of(raster));
      const decode = async (index: number, _rows: number, into: StoredSamples): Promise<void> => {
        for (let t = 0; t < across; t++) await shared.take(index * across + t, into, t * layout.blockWidth, width);
      };
      try {
        yield* bandsOfBlocks(info, layout.blockHeight, allocate, decode, job);
      } finally {
        shared.end();
      }
    },
  };
}

/** See `HeightFormat.share`. */
function tiffInto(source: ByteSource, memory: SharedArrayBuffer): Promise<null> {
  return decodeInto(source, memory, async () => {
    const raster = await readRaster(source);
    return { info: raster.info, reader: await BlockDecoder.of(raster) };
  });
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
