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

/** The viewport that shows all of an extent. */
export function fitTo(extent: Extent, inner: Inner): Viewport {
  const scale =
    Math.min(inner.width / (extent.right - extent.left), inner.height / (extent.bottom - extent.top)) * 0.985;
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
