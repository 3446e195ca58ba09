import { flood } from '../flood';
import type { Whole } from '../heights';

/** A void: samples without a height that hang together by their sides. */
export interface Void {
  /** Numbers of its samples, row after row, in order. */
  readonly samples: Int32Array;
  /** Samples with a height beside it, each once. */
  readonly border: Int32Array;
}

/** All voids of some ground, from the north-west on. Takes a byte for each sample, and the voids themselves. */
export function* voidsOf(ground: Whole): Generator<Void> {
  const { data } = ground;
  /** 1: a sample of a void, 2: of one that was found, 0: ground. */
  const marks = new Uint8Array(data.length);
  for (let i = 0; i < data.length; i++) if (data[i] !== data[i]) marks[i] = 1;
  for (let start = marks.indexOf(1); start >= 0; start = marks.indexOf(1, start + 1)) {
    const samples: number[] = [];
    const border = new Set<number>();
    flood(
      marks,
      ground,
      [start],
      (i) => samples.push(i),
      (i) => border.add(i),
    );
    yield { samples: Int32Array.from(samples).sort(), border: Int32Array.from(border) };
  }
}
