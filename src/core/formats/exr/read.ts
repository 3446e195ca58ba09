import { LevelGridError, type ByteSource } from '../../base';
import {
  samplesOver,
  sampleBytes,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
  type StoredSamples,
} from '../../raster';
import { BlockInflater } from '../block-inflater';
import { bandsOfBlocks, checkSize } from '../blocks';
import { HOST_IS_LITTLE } from '../bytes';
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
import { halfValues } from '../half';
import { unpackBlock } from './unpack';

/** OpenEXR: half, float and uint; scan lines and tiles; none, RLE, ZIPS, ZIP, PIZ. */
export const exrFormat: HeightFormat = {
  id: 'exr',
  name: 'EXR',
  endings: ['exr'],
  sniff: ({ head }) => begins(head, ...MAGIC),
  open: openExr,
};

const unsupported = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('unsupported', { found, expected, remedy });

async function openExr(source: ByteSource): Promise<OpenRaster> {
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
  const across = part.tiles?.width ?? width;
  checkSize(width, height, rows * across * bytesPerPlace(part));
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
  const bytes = sampleBytes(info);
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const reader = new BlockReader(source, part, channel, parts.length > 1 ? parts.indexOf(part) : null);
      const allocate = (n: number): StoredSamples => samplesOver(info, new ArrayBuffer(n * bytes));
      yield* bandsOfBlocks(info, rows, allocate, (index, count, into) => reader.row(index, count, into), job);
    },
  };
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

/** Samples of a channel that lie in first..end−1, one for each `every` places counted from 0. */
const countIn = (first: number, end: number, every: number): number =>
  Math.floor((end - 1) / every) - Math.floor((first - 1) / every);

/** Reads blocks of one part, and takes one channel out of them. */
class BlockReader {
  private table: Float64Array | null = null;
  private readonly inflater = new BlockInflater();

  constructor(
    private readonly source: ByteSource,
    private readonly part: Part,
    private readonly channel: Channel,
    /** Number of the part, where blocks say to which one they belong. */
    private readonly number: number | null,
  ) {}

  /** Samples of block row `index`, `rows` rows of them. */
  async row(index: number, rows: number, into: StoredSamples): Promise<void> {
    const { part } = this;
    const width = part.window[2] - part.window[0] + 1;
    if (!part.tiles) {
      const y = part.window[1] + index * (COMPRESSIONS[part.compression]?.rows ?? 1);
      const packed = await this.block(index, [y]);
      this.take(packed, part.window[0], y, width, rows, into, 0, width);
      return;
    }
    const { width: side } = part.tiles;
    const across = Math.ceil(width / side);
    for (let t = 0; t < across; t++) {
      const packed = await this.block(index * across + t, [t, index, 0, 0]);
      const left = t * side;
      const wide = Math.min(side, width - left);
      const y = part.window[1] + index * part.tiles.height;
      this.take(packed, part.window[0] + left, y, wide, rows, into, left, width);
    }
  }

  /** The packed bytes of a block, which begins with these numbers. */
  private async block(index: number, begins: readonly number[]): Promise<Uint8Array> {
    this.table ??= await this.readTable();
    const at = this.table[index] as number;
    const expected = this.number === null ? begins : [this.number, ...begins];
    const head = expected.length * 4 + 4;
    const bytes = at > 0 && at + head <= this.source.size ? await this.source.read(at, head) : new Uint8Array(0);
    if (bytes.length < head) throw this.missing(index);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const found = expected.map((_, i) => view.getInt32(i * 4, true));
    if (found.some((v, i) => v !== expected[i]))
      throw new LevelGridError('corrupt', {
        file: this.source.name,
        found: `block ${index} as ${found.join(', ')}`,
        expected: expected.join(', '),
        remedy: 'The file is damaged: export or copy it again.',
      });
    const size = view.getInt32(head - 4, true);
    if (size < 0 || at + head + size > this.source.size) throw this.missing(index);
    return this.source.read(at + head, size);
  }

  private missing(index: number): LevelGridError {
    return new LevelGridError('truncated', {
      file: this.source.name,
      found: `a file that ends before block ${index}`,
      expected: `${this.part.blocks} blocks`,
      remedy: 'The file is cut short: copy or export it again.',
    });
  }

  private async readTable(): Promise<Float64Array> {
    const { table, blocks } = this.part;
    const bytes = await this.source.read(table, blocks * 8);
    if (bytes.length < blocks * 8) throw this.missing(0);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    return Float64Array.from({ length: blocks }, (_, i) => Number(view.getBigUint64(i * 8, true)));
  }

  /** Unpacks a block of `wide` × `rows` places from `x`, `y` on and copies the channel to column `left` of `into`. */
  private take(
    packed: Uint8Array,
    x: number,
    y: number,
    wide: number,
    rows: number,
    into: StoredSamples,
    left: number,
    stride: number,
  ): void {
    const { channels, compression } = this.part;
    const shapes = channels.map((c) => ({
      words: pixelBytes(c.type) / 2,
      width: countIn(x, x + wide, c.everyX),
      height: countIn(y, y + rows, c.everyY),
      has: (r: number) => (y + r) % c.everyY === 0,
    }));
    const size = shapes.reduce((n, s) => n + s.words * 2 * s.width * s.height, 0);
    const bytes = unpackBlock(compression, packed, size, shapes, this.inflater);
    let at = 0;
    for (let r = 0; r < rows; r++) {
      channels.forEach((c, i) => {
        const { words, width } = shapes[i] as (typeof shapes)[number];
        if ((y + r) % c.everyY !== 0) return;
        if (c === this.channel) copyRow(bytes, at, c, wide, into, r * stride + left);
        at += words * 2 * width;
      });
    }
  }
}

function copyRow(
  bytes: Uint8Array,
  at: number,
  { type }: Channel,
  count: number,
  into: StoredSamples,
  to: number,
): void {
  const size = pixelBytes(type);
  if (HOST_IS_LITTLE && (bytes.byteOffset + at) % size === 0) {
    const from = bytes.byteOffset + at;
    if (type === 'half') {
      const values = halfValues();
      const halves = new Uint16Array(bytes.buffer, from, count);
      for (let i = 0; i < count; i++) into[to + i] = values[halves[i]!]!;
    } else
      (into as Float32Array).set(
        type === 'float' ? new Float32Array(bytes.buffer, from, count) : new Uint32Array(bytes.buffer, from, count),
        to,
      );
    return;
  }
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (type === 'half') {
    const values = halfValues();
    for (let i = 0; i < count; i++) into[to + i] = values[view.getUint16(at + i * 2, true)] as number;
  } else if (type === 'float') for (let i = 0; i < count; i++) into[to + i] = view.getFloat32(at + i * 4, true);
  else for (let i = 0; i < count; i++) into[to + i] = view.getUint32(at + i * 4, true);
}
