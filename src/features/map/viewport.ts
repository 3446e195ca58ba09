import type { Geometry } from '@/core/plan';

/** What the map shows: a place in source samples at its middle, and CSS pixels per source sample. */
export interface Viewport {
  readonly x: number;
  readonly y: number;
  readonly scale: number;
}

/** The part of the canvas that shows ground, inside the collar. In CSS pixels. */
export interface Inner {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

export const COLLAR = { left: 46, top: 22, right: 26, bottom: 22 } as const;
const MAX_SCALE = 48;

export function innerOf(width: number, height: number): Inner {
  return {
    left: COLLAR.left,
    top: COLLAR.top,
    width: Math.max(1, width - COLLAR.left - COLLAR.right),
    height: Math.max(1, height - COLLAR.top - COLLAR.bottom),
  };
}

export const toScreenX = (v: Viewport, inner: Inner, x: number): number =>
  inner.left + inner.width / 2 + (x - v.x) * v.scale;
export const toScreenY = (v: Viewport, inner: Inner, y: number): number =>
  inner.top + inner.height / 2 + (y - v.y) * v.scale;
export const toGroundX = (v: Viewport, inner: Inner, px: number): number =>
  v.x + (px - inner.left - inner.width / 2) / v.scale;
export const toGroundY = (v: Viewport, inner: Inner, py: number): number =>
  v.y + (py - inner.top - inner.height / 2) / v.scale;

/** A rectangle of ground in source samples. */
export interface Extent {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/** All that is on the map: the source, or the fitted grid, or the grid with the source around it. */
export function extentOf(source: { width: number; height: number }, grid: Geometry | null, around: boolean): Extent {
  const whole = { left: 0, top: 0, right: source.width - 1, bottom: source.height - 1 };
  if (!grid) return whole;
  const { sourceStart: start, sourcePerVertex: per, width, height } = grid;
  const fitted = {
    left: start.x,
    top: start.y,
    right: start.x + (width - 1) * per.x,
    bottom: start.y + (height - 1) * per.y,
  };
  if (!around) return fitted;
  return {
    left: Math.min(whole.left, fitted.left),
    top: Math.min(whole.top, fitted.top),
    right: Math.max(whole.right, fitted.right),
    bottom: Math.max(whole.bottom, fitted.bottom),
  };
}

/** The viewport that shows all of an extent; one without a width or a height is shown as a sample wide or high. */
export function fitTo(extent: Extent, inner: Inner): Viewport {
  const [wide, high] = [extent.right - extent.left || 1, extent.bottom - extent.top || 1];
  const scale = Math.min(inner.width / wide, inner.height / high) * 0.985;
  return { x: (extent.left + extent.right) / 2, y: (extent.top + extent.bottom) / 2, scale };
}

/** Zoomed by a factor about a place on the screen; the ground under it stays. */
export function zoomAt(v: Viewport, inner: Inner, factor: number, px: number, py: number, least: number): Viewport {
  const scale = Math.max(least, Math.min(MAX_SCALE, v.scale * factor));
  const gx = toGroundX(v, inner, px);
  const gy = toGroundY(v, inner, py);
  return {
    scale,
    x: gx - (px - inner.left - inner.width / 2) / scale,
    y: gy - (py - inner.top - inner.height / 2) / scale,
  };
}

/** The viewport with its middle held inside an extent. */
export function within(v: Viewport, extent: Extent): Viewport {
  const hold = (n: number, low: number, high: number): number => Math.max(low, Math.min(high, n));
  return { ...v, x: hold(v.x, extent.left, extent.right), y: hold(v.y, extent.top, extent.bottom) };
}
