'use client';
import { useEffect, useState } from 'react';

export interface Size {
  readonly width: number;
  readonly height: number;
}

/** The size of an element in whole CSS pixels, kept up to date; null before it is known. The function is its ref. */
export function useSize<T extends HTMLElement>(): {
  frame: T | null;
  setFrame: (element: T | null) => void;
  size: Size | null;
} {
  const [frame, setFrame] = useState<T | null>(null);
  const [size, setSize] = useState<Size | null>(null);
  useEffect(() => {
    if (!frame) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: Math.floor(entry.contentRect.width), height: Math.floor(entry.contentRect.height) });
    });
    watch.observe(frame);
    return () => watch.disconnect();
  }, [frame]);
  return { frame, setFrame, size };
}
