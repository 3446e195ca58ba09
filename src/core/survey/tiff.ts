import type { Extent } from './ground';

const LITTLE = true;

/** Keys of the placement: points (1025 = 2) in degrees (2048 = 4326, 2054 = 9102), or in metres; heights in metres. */
const IN_DEGREES = [1, 1, 0, 5, 1024, 0, 1, 2, 1025, 0, 1, 2, 2048, 0, 1, 4326, 2054, 0, 1, 9102, 4099, 0, 1, 9001];
const IN_METRES = [1, 1, 0, 4, 1024, 0, 1, 1, 1025, 0, 1, 2, 3076, 0, 1, 9001, 4099, 0, 1, 9001];

/**
 * The plainest tagged picture file (TIFF 6.0): floats in metres in one strip, rows from the north. Samples are points, so
 * the tie point is the north-western sample itself, at `west` and `north`, `step` from the next.
 */
export function plainTiff(
  width: number,
  height: number,
  heights: Float32Array,
  { west, north }: Pick<Extent, 'west' | 'north'>,
  step: number,
  degrees: boolean,
): Uint8Array {
  const keys = degrees ? IN_DEGREES : IN_METRES;
  const data = 8;
  const scale = data + heights.length * 4;
  const tie = scale + 24;
  const keysAt = tie + 48;
  const directory = keysAt + keys.length * 2;
  const entries: readonly (readonly [tag: number, type: number, count: number, value: number])[] = [
    [256, 4, 1, width],
    [257, 4, 1, height],
    [258, 3, 1, 32],
    [259, 3, 1, 1],
    [262, 3, 1, 1],
    [273, 4, 1, data],
    [277, 3, 1, 1],
    [278, 4, 1, height],
    [279, 4, 1, heights.length * 4],
    [339, 3, 1, 3],
    [33550, 12, 3, scale],
    [33922, 12, 6, tie],
    [34735, 3, keys.length, keysAt],
  ];
  const view = new DataView(new ArrayBuffer(directory + 2 + entries.length * 12 + 4));
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, LITTLE);
  view.setUint32(4, directory, LITTLE);
  heights.forEach((h, i) => view.setFloat32(data + 4 * i, h, LITTLE));
  [step, step, 0, 0, 0, 0, west, north, 0].forEach((v, i) => view.setFloat64(scale + 8 * i, v, LITTLE));
  keys.forEach((key, i) => view.setUint16(keysAt + 2 * i, key, LITTLE));
  view.setUint16(directory, entries.length, LITTLE);
  entries.forEach(([tag, type, count, value], i) => {
    const at = directory + 2 + 12 * i;
    view.setUint16(at, tag, LITTLE);
    view.setUint16(at + 2, type, LITTLE);
    view.setUint32(at + 4, count, LITTLE);
    if (type === 3 && count === 1) view.setUint16(at + 8, value, LITTLE);
    else view.setUint32(at + 8, value, LITTLE);
  });
  return new Uint8Array(view.buffer);
}
