import type { Whole } from '../heights';

/** A void: samples without a height that hang together by their sides. */
export interface Void {
  /** Numbers of its samples, row after row, in order. */
  readonly samples: Int32Array;
  /** Samples with a height beside it, each once. */
  readonly border: Int32Array;
  /** It reaches the border of the raster. */
  readonly open: boolean;
}

/** The samples that have a side in common with sample `i`. */
export function beside(
  i: number,
  { width, height }: Pick<Whole, 'width' | 'height'>,
  visit: (j: number) => void,
): void {
  const x = i % width;
  if (x > 0) visit(i - 1);
  if (x < width - 1) visit(i + 1);
  if (i >= width) visit(i - width);
  if (i < width * (height - 1)) visit(i + width);
}

/** All voids of some ground, from the north-west on. Takes a byte for each sample, and the voids themselves. */
export function* voidsOf(ground: Whole): Generator<Void> {
  const { data, width, height } = ground;
  /** 1: sample of a void that was found, 2: border of the one that is looked at. */
  const seen = new Uint8Array(data.length);
  for (let start = 0; start < data.length; start++) {
    if (data[start] === data[start] || seen[start] === 1) continue;
    const samples = [start];
    const border: number[] = [];
    seen[start] = 1;
    for (let k = 0; k < samples.length; k++)
      beside(samples[k]!, ground, (j) => {
        const isVoid = data[j] !== data[j];
        if (seen[j] !== 0) return;
        seen[j] = isVoid ? 1 : 2;
        (isVoid ? samples : border).push(j);
      });
    for (const j of border) seen[j] = 0;
    const open = samples.some((i) => {
      const x = i % width;
      return x === 0 || x === width - 1 || i < width || i >= width * (height - 1);
    });
    yield { samples: Int32Array.from(samples).sort(), border: Int32Array.from(border), open };
  }
}
