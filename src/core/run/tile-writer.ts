import { LevelGridError, type ByteSink, type Hasher, type SinkFolder, type StartHasher } from '../base';
import { openHeightWriter, type HeightWriter, type PngOptions } from '../formats';
import { placeOfFile, type PlanFile } from '../plan';
import type { Codes, Encoding, MapPlace } from '../raster';
import type { Recipe } from '../recipe';
import type { TileGrid } from '../tiles';

export interface TileWriterOptions {
  readonly hasher: StartHasher;
  readonly encoding: Encoding;
  readonly png: PngOptions;
  /** Where the whole lies on a map, for files that can say it. */
  readonly map?: MapPlace | undefined;
  /** The same in the world that is written: metres from its south-western sample. */
  readonly lies: Pick<MapPlace, 'origin' | 'across' | 'down'>;
}

/** Rows from the south can't be written before the last one is known: they are held, up to this many bytes. */
const MAX_HELD_BYTES = 1.5e9;

/** Cuts bands of stored heights into the files of the pack; only the tiles that the current rows cross are open. */
export class TileWriter {
  private readonly open = new Map<string, HeightWriter>();
  readonly checksums = new Map<string, string>();

  constructor(
    private readonly grid: TileGrid,
    private readonly files: readonly PlanFile[],
    private readonly recipe: Recipe,
    private readonly folder: SinkFolder,
    private readonly options: TileWriterOptions,
  ) {
    const held =
      recipe.output.format === 'raw' && recipe.output.rows === 'south'
        ? grid.across * grid.tileWidth * grid.tileHeight * (options.encoding.bits / 8)
        : 0;
    if (held > MAX_HELD_BYTES) {
      throw new LevelGridError('too-large', {
        found: `${held} bytes of rows to hold until the southernmost is known`,
        expected: `at most ${MAX_HELD_BYTES}`,
        remedy: 'Write rows from the north, or split into more tiles down.',
      });
    }
  }

  /** `codes` holds whole rows of the whole raster from row `y`. */
  async write(y: number, codes: Codes, width: number): Promise<void> {
    const rows = codes.length / width;
    for (const [index, tile] of this.grid.tiles.entries()) {
      const { window: w } = tile;
      const from = Math.max(y, w.y);
      const to = Math.min(y + rows, w.y + w.height);
      if (from >= to) continue;
      let writer = this.open.get(tile.name);
      if (!writer) {
        writer = await this.start(this.files[index] as PlanFile);
        this.open.set(tile.name, writer);
      }
      await writer.write(windowOf(codes, width, w.x, from - y, w.width, to - from));
      if (to === w.y + w.height) {
        await writer.close();
        this.open.delete(tile.name);
      }
    }
  }

  private async start(file: PlanFile): Promise<HeightWriter> {
    const { hasher, encoding, png, map, lies } = this.options;
    const sink = hashed(await this.folder.open(file.name), await hasher(), (sum) => this.checksums.set(file.name, sum));
    const { format, byteOrder, rows, compression } = this.recipe.output;
    const { width, height } = file;
    const shape = {
      width,
      height,
      encoding,
      byteOrder,
      deflate: compression === 'deflate',
      lies: placeOfFile(lies, file.window),
      ...(map ? { place: placeOfFile(map, file.window) } : {}),
    };
    const writer = await openHeightWriter(format, sink, shape, png);
    return format === 'raw' && rows === 'south' ? fromSouth(writer, width) : writer;
  }
}

/** A window of a band as rows of its own; the band itself where the window is as wide. */
function windowOf(codes: Codes, width: number, x: number, y: number, w: number, h: number): Codes {
  if (w === width) return codes.subarray(y * width, (y + h) * width);
  const out = codes instanceof Float32Array ? new Float32Array(w * h) : new Uint16Array(w * h);
  for (let r = 0; r < h; r++) {
    const at = (y + r) * width + x;
    out.set(codes.subarray(at, at + w), r * w);
  }
  return out;
}

/** Holds all rows and writes them from the last to the first. */
function fromSouth(writer: HeightWriter, width: number): HeightWriter {
  const held: Codes[] = [];
  return {
    write: async (codes) => {
      held.push(codes.slice());
    },
    close: async () => {
      for (const band of held.reverse()) {
        const turned = band.slice();
        for (let at = 0; at < band.length; at += width)
          turned.set(band.subarray(at, at + width), band.length - width - at);
        await writer.write(turned);
      }
      await writer.close();
    },
  };
}

function hashed(sink: ByteSink, hasher: Hasher, done: (sum: string) => void): ByteSink {
  return {
    write: async (bytes) => {
      hasher.update(bytes);
      await sink.write(bytes);
    },
    close: async () => {
      await sink.close();
      done(hasher.digest());
    },
  };
}
