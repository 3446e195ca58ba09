/** What the tests of large terrains measure and print: memory of the tab, and what the page shows when. */
import { readdirSync, readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';

/** Resident memory of this run's browser tabs, MB, as the kernel counts it: heap, shared memory and kernels alike. */
function residentTabs(): number {
  let kilobytes = 0;
  for (const pid of readdirSync('/proc').filter((n) => /^\d+$/.test(n))) {
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer')) continue;
      if (!descends(pid)) continue;
      kilobytes += Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0);
    } catch {
      // it has ended
    }
  }
  return kilobytes / 1024;
}

function descends(pid: string): boolean {
  for (let at = pid; at !== '0' && at !== '1';) {
    if (Number(at) === process.pid) return true;
    at = /PPid:\s+(\d+)/.exec(readFileSync(`/proc/${at}/status`, 'utf8'))?.[1] ?? '0';
  }
  return false;
}

export function watchMemory(): () => Promise<{ start: number; peak: number; end: number }> {
  const start = residentTabs();
  let peak = start;
  const timer = setInterval(() => {
    peak = Math.max(peak, residentTabs());
  }, 50);
  return async () => {
    clearInterval(timer);
    // memory goes back when the collector has run, which nothing on the page shows
    let end = residentTabs();
    for (let i = 0; i < 100 && end - start > 0.3 * (peak - start); i++) {
      await new Promise((resolve) => setTimeout(resolve, 100));
      end = Math.min(end, residentTabs());
    }
    return { start, peak, end };
  };
}

export interface Seen {
  readonly header: number;
  readonly coarse: number;
  /** Ground from the north edge to the south one. */
  readonly whole: number;
  readonly counted: number;
  readonly fine: number;
  readonly longestFrame: number;
}

/** Watches the page from the next change of its file input until the map is complete; milliseconds after the drop. */
export function watch(page: Page): Promise<Seen> {
  return page.evaluate(
    () =>
      new Promise<Seen>((resolve) => {
        const input = document.querySelector<HTMLInputElement>('input[aria-label="Heightmap to bring in"]')!;
        input.addEventListener(
          'change',
          () => {
            const start = performance.now();
            const seen = { header: 0, coarse: 0, whole: 0, counted: 0, fine: 0, longestFrame: 0 };
            const canvas = document.querySelector<HTMLCanvasElement>('[aria-label^="Terrain map"]')!;
            const spot = document.createElement('canvas').getContext('2d', { willReadFrequently: true })!;
            let frames = 0;
            let last = start;
            /** Whether the middle of that row of the map shows something else than the empty sheet. */
            const groundAt = (y: number): boolean => {
              spot.drawImage(canvas, canvas.width / 2, y, 1, 1, 0, 0, 1, 1);
              const [r, g, b] = spot.getImageData(0, 0, 1, 1).data;
              return `${r} ${g} ${b}` !== '233 237 232';
            };
            const look = (): void => {
              const now = performance.now();
              seen.longestFrame = Math.max(seen.longestFrame, now - last);
              last = now;
              const facts = document.querySelector('dl')?.textContent ?? '';
              if (seen.header === 0 && facts.includes('8129')) seen.header = now - start;
              // two frames later the map has let go of what it showed before
              if (seen.header > 0 && seen.whole === 0 && ++frames > 2) {
                if (seen.coarse === 0 && groundAt(60)) seen.coarse = now - start;
                if (groundAt(canvas.height - 60)) seen.whole = now - start;
              }
              if (seen.header > 0 && seen.counted === 0 && !facts.includes('counting')) seen.counted = now - start;
              if (seen.counted > 0 && canvas.getAttribute('aria-busy') === 'false') {
                seen.fine = now - start;
                resolve(seen);
                return;
              }
              requestAnimationFrame(look);
            };
            requestAnimationFrame(look);
          },
          { once: true, capture: true },
        );
      }),
  );
}

export interface Preview {
  /** The card shows the new value. */
  readonly card: number;
  /** Ground of the new picture is drawn. */
  readonly coarse: number;
  /** All tiles of it are there. */
  readonly fine: number;
  readonly longestFrame: number;
}

/** Presses a key on the ladder and watches until the map is complete again; milliseconds after the key. */
export function preview(page: Page, key: string): Promise<Preview> {
  return page.evaluate(
    (pressed) =>
      new Promise<Preview>((resolve) => {
        const canvas = document.querySelector<HTMLCanvasElement>('[aria-label^="Terrain map"]')!;
        const ladder = document.querySelector<HTMLElement>('[role=slider][aria-label="Vertices per side"]')!;
        const value = (): string => document.querySelector('[data-card="layout"]')?.textContent ?? '';
        const before = value();
        ladder.focus();
        const start = performance.now();
        let last = start;
        const seen = { card: 0, coarse: 0, fine: 0, longestFrame: 0 };
        // a tile of the new picture is on the map once it has been drawn into a canvas of its own
        const context = CanvasRenderingContext2D.prototype as unknown as Record<
          string,
          (...given: unknown[]) => unknown
        >;
        const draw = context.putImageData!;
        context.putImageData = function (...given) {
          if (seen.coarse === 0) seen.coarse = -1;
          Reflect.apply(draw, this, given);
        };
        ladder.dispatchEvent(new KeyboardEvent('keydown', { key: pressed, bubbles: true }));
        const look = (): void => {
          const now = performance.now();
          seen.longestFrame = Math.max(seen.longestFrame, now - last);
          last = now;
          if (seen.card === 0 && value() !== before) seen.card = now - start;
          if (seen.coarse === -1) seen.coarse = now - start;
          if (seen.coarse > 0 && canvas.getAttribute('aria-busy') === 'false') {
            seen.fine = now - start;
            context.putImageData = draw;
            resolve(seen);
          } else requestAnimationFrame(look);
        };
        requestAnimationFrame(look);
      }),
    key,
  );
}
