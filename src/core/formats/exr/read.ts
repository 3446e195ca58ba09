import { LevelGridError, type ByteSource } from '../../base';
import {
  samplesOver,
  sampleBytes,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type StoredSamples,
} from '../../raster';
import { bandsOfBlocks, checkSize } from '../blocks';
import { begins, type HeightFormat } from '../format';
import {
  COMPRESSIONS,
  heightChannel,
  MAGIC,
  MAX_HEADER_BYTES,
  parseHeader,
  pixelBytes,
  type Channel,
  type Part,
} from './header';
import { ExrBlocks } from './blocks';
import { decodeInto, SharedBlocks } from '../shared-blocks';

/** OpenEXR: half, float and uint; scan lines and tiles; none, RLE, ZIPS, ZIP, PIZ. */
export const exrFormat: HeightFormat = {
  id: 'exr',
  name: 'EXR',
  endings: ['exr'],
  sniff: ({ head }) => begins(head, ...MAGIC),
  open: openExr,
  share: exrInto,
};

const unsupported = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('unsupported', { found, expected, remedy });

/** What an EXR holds, before any sample is read. */
interface ExrRaster {
  readonly info: RasterInfo;
  /** Rows and columns of a whole block. */
  readonly rows: number;
  readonly wide: number;
  readonly reader: () => ExrBlocks;
}

async function readRaster(source: ByteSource): Promise<ExrRaster> {
  const parts = parseHeader(await headerBytes(source));
  const part = parts.find((p) => !p.deep && COMPRESSIONS[p.compression]?.read) ?? parts[0];
  if (!part) throw unsupported('a file without a picture', 'at least one', 'Export the file again.');
  const { name, read } = COMPRESSIONS[part.compression] as (typeof COMPRESSIONS)[number];
  if (part.deep)
    throw unsupported(
      'a picture with several depths at each place',
      'one height at each place',
      'Export a flat picture.',
    );
  if (!read)
    throw unsupported(
      `an EXR packed with ${name}, which loses heights`,
      'one of: none, RLE, ZIPS, ZIP, PIZ',
      'Export it again with ZIP, which keeps every height.',
    );
  const channel = heightChannel(part.channels);
  if (channel.everyX !== 1 || channel.everyY !== 1)
    throw unsupported(
      `a channel ${channel.name} with a sample for every ${channel.everyX} × ${channel.everyY} places`,
      'a sample at every place',
      'Export the heights at full size.',
    );
  const [left, top, right, bottom] = part.window;
  const [width, height] = [right - left + 1, bottom - top + 1];
  const rows = part.tiles ? part.tiles.height : (COMPRESSIONS[part.compression]?.rows ?? 1);
  const wide = part.tiles?.width ?? width;
  checkSize(width, height, rows * wide * bytesPerPlace(part));
  checkSize(width, height, rows * width * 8);
  if (part.table + part.blocks * 8 > source.size)
    throw new LevelGridError('truncated', {
      found: `${source.size} bytes`,
      expected: `a table of ${part.blocks} blocks up to byte ${part.table + part.blocks * 8}`,
      remedy: 'The file is cut short: copy or export it again.',
    });
  const info: RasterInfo = {
    format: 'exr',
    width,
    height,
    channels: part.channels.length,
    bitDepth: channel.type === 'half' ? 16 : 32,
    sampleType: channel.type === 'uint' ? 'uint' : 'float',
    byteOrder: 'little',
    channel: channel.name,
    ...(parts.length > 1 ? { pages: parts.length } : {}),
    warnings: warningsOf(parts, part, channel),
  };
  return {
    info,
    rows,
    wide,
    reader: () => new ExrBlocks(source, part, channel, parts.length > 1 ? parts.indexOf(part) : null),
  };
}

async function openExr(source: ByteSource): Promise<OpenRaster> {
  const { info, rows, wide, reader } = await readRaster(source);
  const { width } = info;
  const across = Math.ceil(width / wide);
  const bytes = sampleBytes(info);
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const shared = SharedBlocks.start(source, info, reader());
      const allocate = (n: number): StoredSamples => samplesOver(info, new ArrayBuffer(n * bytes));
      const decode = async (index: number, _count: number, into: StoredSamples): Promise<void> => {
        for (let t = 0; t < across; t++) await shared.take(index * across + t, into, t * wide, width);
      };
      try {
        yield* bandsOfBlocks(info, rows, allocate, decode, job);
      } finally {
        shared.end();
      }
    },
  };
}

/** See `HeightFormat.share`. */
function exrInto(source: ByteSource, memory: SharedArrayBuffer): Promise<null> {
  return decodeInto(source, memory, async () => {
    const { info, reader } = await readRaster(source);
    return { info, reader: reader() };
  });
}

/** The header: as much of the file as it may take, in growing steps, so that a large file is not read for it. */
async function headerBytes(source: ByteSource): Promise<Uint8Array> {
  for (let size = 4096; ; size *= 16) {
    const bytes = await source.read(0, Math.min(size, MAX_HEADER_BYTES, source.size));
    if (bytes.length === source.size || bytes.length >= MAX_HEADER_BYTES) return bytes;
    try {
      parseHeader(bytes);
      return bytes;
    } catch (reason) {
      if (!(reason instanceof LevelGridError && reason.code === 'truncated')) throw reason;
    }
  }
}

function warningsOf(parts: readonly Part[], part: Part, channel: Channel): RasterWarning[] {
  const warnings: RasterWarning[] = [];
  const others = part.channels.filter((c) => c !== channel).map((c) => c.name);
  if (others.length > 0)
    warnings.push({
      code: 'colour',
      message: `The file holds ${part.channels.length} channels; heights are read from ${channel.name}, and ${others.slice(0, 6).join(', ')}${others.length > 6 ? ' and others' : ''} ${others.length === 1 ? 'is' : 'are'} left out.`,
    });
  const layer = channel.name.slice(0, channel.name.lastIndexOf('.') + 1);
  // colours of such pictures are multiplied by their alpha by definition; other channels are not
  if (
    /^[rgby]$/i.test(channel.name.slice(layer.length)) &&
    others.some((n) => n.toLowerCase() === `${layer}a`.toLowerCase())
  )
    warnings.push({
      code: 'alpha',
      message: `The file has an alpha channel, by which ${channel.name} is multiplied: where alpha is below 1 the heights are too low. Export the heights without alpha.`,
    });
  if (parts.length > 1)
    warnings.push({
      code: 'pages',
      message: `The file holds ${parts.length} pictures; ${part.name === null || part.name === '' ? 'the first' : part.name} is read.`,
    });
  if (part.window.some((v, i) => v !== part.display[i]))
    warnings.push({
      code: 'structure',
      message: `The samples cover columns ${part.window[0]} to ${part.window[2]} and rows ${part.window[1]} to ${part.window[3]} of a frame of ${part.display[2] - part.display[0] + 1} × ${part.display[3] - part.display[1] + 1}: only they are read. Check that the picture has the size you expect.`,
    });
  return warnings;
}

const bytesPerPlace = (part: Part): number => part.channels.reduce((n, c) => n + pixelBytes(c.type), 0);
