import type { TilePixels, TileRequest } from '@/workers/protocol';
import { paintMap, type DrawnLayers, type MapScene } from './paint-map';
import { TileCache } from './tile-cache';

/**
 * While a source is being read its tiles come again and again: the map is painted at most so often then, since every
 * painting takes time from the reading. The first ground is not kept waiting.
 */
const PAUSE_WHILE_READING_MS = 250;

/** Paintings that do not wait: the first rows, and their tiles. */
const FIRST_GROUNDS = 6;

const NOTHING_DRAWN: DrawnLayers = { sourceKey: '', source: null, result: null };

/** Keeps a canvas painted: when its scene changes, and as tiles arrive, all that come before a frame together. */
export class MapPainter {
  private readonly cache: TileCache;
  private readonly drawn: DrawnLayers = { ...NOTHING_DRAWN };
  private on: { readonly canvas: HTMLCanvasElement; readonly scene: MapScene } | null = null;
  /** A painting that is to come: waiting for its pause to end (the timer), or for the next frame. */
  private pending: { timer: ReturnType<typeof setTimeout> | null } | null = null;
  private painted = 0;
  /** Paintings of this source since its rows began to come. */
  private grounds = 0;

  constructor(ask: (request: TileRequest) => Promise<TilePixels | null>) {
    this.cache = new TileCache(ask, () => this.paintSoon());
  }

  /** The scene that the canvas shows from now on. */
  show(canvas: HTMLCanvasElement, scene: MapScene): void {
    const sourceKey = scene.shown.sourceKey ?? '';
    if (this.drawn.sourceKey !== sourceKey) {
      // tiles of another source are never wanted again
      this.cache.clear();
      Object.assign(this.drawn, NOTHING_DRAWN, { sourceKey });
      this.grounds = 0;
    }
    const onlyRows = this.on !== null && sameButRows(this.on.scene, scene);
    this.on = { canvas, scene };
    if (onlyRows) {
      this.paintSoon();
      return;
    }
    // what waited out its pause is painted now; tiles to come must not wait for its end
    if (this.pending?.timer) {
      clearTimeout(this.pending.timer);
      this.pending = null;
    }
    this.paint();
  }

  /** Paints no more. */
  rest(): void {
    this.on = null;
  }

  private paintSoon(): void {
    if (this.pending || !this.on) return;
    const nextFrame = (): void => {
      this.pending = { timer: null };
      requestAnimationFrame(() => {
        this.pending = null;
        this.paint();
      });
    };
    const reading = this.on.scene.shown.arrived !== null && this.grounds > FIRST_GROUNDS;
    const pause = reading ? this.painted + PAUSE_WHILE_READING_MS - performance.now() : 0;
    if (pause > 0) this.pending = { timer: setTimeout(nextFrame, pause) };
    else nextFrame();
  }

  private paint(): void {
    if (!this.on) return;
    const { canvas, scene } = this.on;
    const ctx = canvas.getContext('2d');
    if (!ctx) return;
    const ratio = window.devicePixelRatio || 1;
    const { width, height } = scene.size;
    if (canvas.width !== width * ratio || canvas.height !== height * ratio) {
      canvas.width = width * ratio;
      canvas.height = height * ratio;
    }
    paintMap(ctx, ratio, scene, this.cache, this.drawn);
    this.painted = performance.now();
    if ((scene.shown.arrived ?? 0) > 0) this.grounds++;
    // known only now that the painting has asked for what it misses
    canvas.setAttribute('aria-busy', String(scene.shown.held && !this.cache.idle));
  }
}

/** True where nothing but the number of rows that were read has changed. */
function sameButRows(a: MapScene, b: MapScene): boolean {
  const same = <T extends object>(x: T, y: T, but: keyof T): boolean =>
    (Object.keys(y) as (keyof T)[]).every((k) => k === but || Object.is(x[k], y[k]));
  return b.shown.arrived !== null && same(a, b, 'shown') && same(a.shown, b.shown, 'arrived');
}
