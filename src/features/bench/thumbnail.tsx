'use client';
import { useEffect, useRef } from 'react';
import type { SmallPicture } from '@/core/view';

/** A small picture of heights: dark is low. */
export function Thumbnail({ preview }: { preview: SmallPicture }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { width, height, values } = preview;
  useEffect(() => {
    const ctx = canvas.current?.getContext('2d');
    if (!ctx) return;
    const image = ctx.createImageData(width, height);
    values.forEach((v, i) => {
      const grey = Number.isNaN(v) ? 255 : Math.round(30 + 210 * v);
      image.data.set([grey, grey, grey, 255], i * 4);
    });
    ctx.putImageData(image, 0, 0);
  }, [width, height, values]);
  return (
    <canvas
      ref={canvas}
      width={width}
      height={height}
      aria-hidden="true"
      className="shrink-0 [image-rendering:pixelated]"
    />
  );
}
