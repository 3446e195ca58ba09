import type { TilePixels, TileRequest } from '@/workers/protocol';

/** About four screens; each takes a quarter of a megabyte. */
const MOST_TILES = 200;
/** Requests that the view worker holds at once; the rest wait, newest view first. */
const IN_FLIGHT = 2;

export interface WantedTile {
  readonly key: string;
  /** Rows of the raster that it must show at least. */
  readonly rows: number;
  readonly request: TileRequest;
}

/** Drawn tiles of the map by key, least recently used ones dropped; asks for what is missing. */
export class TileCache {
  private readonly tiles = new Map<string, { readonly canvas: HTMLCanvasElement; readonly rows: number }>();
  private wanted: readonly WantedTile[] = [];
  private readonly flying = new Set<string>();

  constructor(
    private readonly ask: (request: TileRequest) => Promise<TilePixels | null>,
    private readonly arrived: () => void,
  ) {}

  get(key: string): HTMLCanvasElement | null {
    const tile = this.tiles.get(key);
    if (!tile) return null;
    this.tiles.delete(key);
    this.tiles.set(key, tile);
    return tile.canvas;
  }

  /** Rows that a tile was asked for with; 0 where it is not there. */
  rowsOf(key: string): number {
    return this.tiles.get(key)?.rows ?? 0;
  }

  /** The tiles that the current view misses, most important first; earlier wishes are dropped. */
  want(wanted: readonly WantedTile[]): void {
    this.wanted = wanted;
    this.pump();
  }

  get idle(): boolean {
    return this.flying.size === 0 && this.wanted.every((w) => this.rowsOf(w.key) >= w.rows);
  }

  /** Lets go of everything; what is under way still arrives. */
  clear(): void {
    this.tiles.clear();
    this.wanted = [];
  }

  private pump(): void {
    for (const { key, rows, request } of this.wanted) {
      if (this.flying.size >= IN_FLIGHT) return;
      if (this.rowsOf(key) >= rows || this.flying.has(key)) continue;
      this.flying.add(key);
      void this.ask(request)
        .then((pixels) => {
          if (pixels) this.keep(key, rows, pixels);
        })
        .finally(() => {
          this.flying.delete(key);
          this.arrived();
          this.pump();
        });
    }
  }

  private keep(key: string, rows: number, { width, height, pixels }: TilePixels): void {
    const canvas = document.createElement('canvas');
    canvas.width = width;
    canvas.height = height;
    canvas.getContext('2d')?.putImageData(new ImageData(pixels, width, height), 0, 0);
    this.tiles.set(key, { canvas, rows });
    for (const old of this.tiles.keys()) {
      if (this.tiles.size <= MOST_TILES) break;
      this.tiles.delete(old);
    }
  }
}
