import { gradientNoise } from '../base';

/** The surveyed ground, in degrees: the Tarrowen Fells and the sea around them. */
export const WORLD = { west: 80.2, south: -47.6, east: 80.8, north: -47.1 } as const;

/** Survey blocks: degrees of a side, and how many there are. */
export const BLOCK = 0.1;
export const BLOCKS = { across: 6, down: 5 } as const;

/** What the desk keeps of the same ground: seconds of arc between samples. */
export const DATA_SETS = {
  coarse: { seconds: 3, name: 'Coarse, 3 arc-seconds' },
  fine: { seconds: 1, name: 'Fine, 1 arc-second, with voids' },
  composite: { seconds: 1, name: 'Composite: fine, its voids filled from coarse' },
} as const;
export type DataSet = keyof typeof DATA_SETS;
export const DATA_SET_IDS = ['coarse', 'fine', 'composite'] as const;

/** Intervals along a side of a block; neighbours hold the samples between them both. */
export const quadsOf = (set: DataSet): number => Math.round((BLOCK * 3600) / DATA_SETS[set].seconds);

const shape = gradientNoise(81017);
const ridges = gradientNoise(92003);
const grain = gradientNoise(10337);

/**
 * Metres above the sea at seconds of arc east and south of the north-western corner; the sea lies at 0. Every wave is
 * turned against the grid of samples, so that no survey shows where it was made.
 */
function trueHeight(x: number, y: number): number {
  // shares of the world, about 1 across
  const [u, v] = [x / 2160, y / 1800];
  const land = 1.25 - 2.3 * Math.hypot(u - 0.52, 0.85 * (v - 0.5)) + 0.5 * shape(2.6 * u + 0.7 * v, 2.6 * v - 0.7 * u);
  if (land <= 0) return 0;
  const slow = Math.min(1, land / 0.75);
  let fells = 0;
  let weight = 1;
  for (let octave = 0, f = 4.1, height = 0.5; octave < 8; octave++, f *= 2.07, height *= 0.52) {
    const angle = 0.6 + 1.3 * octave;
    const [c, s] = [Math.cos(angle), Math.sin(angle)];
    const crest = 1 - Math.abs(ridges(f * (c * u - s * v) + 19 * octave, f * (s * u + c * v)));
    const sharp = crest * crest * weight;
    weight = Math.min(1, Math.max(0.1, sharp * 1.6));
    fells += sharp * height;
  }
  const rough = 2.2 * grain(0.31 * x + 0.17 * y, 0.31 * y - 0.17 * x);
  return Math.max(0.3, slow * slow * (3 - 2 * slow) * (60 + 1320 * fells) - 40 * (1 - slow) + rough * slow);
}

const rounded = (metres: number): number => Math.round(metres * 10) / 10;

/** Heights at every second of arc of a block and a few beyond, since surveys look around each place. */
class Lattice {
  static readonly MARGIN = 6;
  private readonly side = 3600 * BLOCK + 1 + 2 * Lattice.MARGIN;
  private readonly heights: Float32Array;

  constructor(
    private readonly x0: number,
    private readonly y0: number,
  ) {
    const { side } = this;
    this.heights = new Float32Array(side * side);
    for (let j = 0; j < side; j++)
      for (let i = 0; i < side; i++)
        this.heights[j * side + i] = trueHeight(x0 + i - Lattice.MARGIN, y0 + j - Lattice.MARGIN);
  }

  at(x: number, y: number): number {
    return this.heights[(y - this.y0 + Lattice.MARGIN) * this.side + (x - this.x0 + Lattice.MARGIN)]!;
  }
}

/** Where the fine survey saw nothing: steep places in the shadow of its instrument. */
function unseen(ground: Lattice, x: number, y: number): boolean {
  const slope = ground.at(x + 2, y + 1) - ground.at(x - 2, y - 1);
  return slope > 52 || shape(0.021 * x + 0.008 * y + 40, 0.021 * y - 0.008 * x) > 0.72;
}

/** Samples of the coarse survey are means over what lies around them. */
function coarseAt(ground: Lattice, x: number, y: number): number {
  let sum = 0;
  for (let dy = -1; dy <= 1; dy++) for (let dx = -1; dx <= 1; dx++) sum += ground.at(x + dx, y + dy);
  return rounded(sum / 9);
}

/** The coarse survey on a straight line between its samples. */
function filledAt(ground: Lattice, x: number, y: number): number {
  const [c, r] = [3 * Math.floor(x / 3), 3 * Math.floor(y / 3)];
  const [u, v] = [(x - c) / 3, (y - r) / 3];
  const north = coarseAt(ground, c, r) * (1 - u) + coarseAt(ground, c + 3, r) * u;
  const south = coarseAt(ground, c, r + 3) * (1 - u) + coarseAt(ground, c + 3, r + 3) * u;
  return rounded(north * (1 - v) + south * v);
}

const made = new Map<string, Readonly<Record<DataSet, Float32Array>>>();

/** Heights of one block in metres, rows from the north; NaN where the survey has none. Always the same. */
export function blockHeights(set: DataSet, column: number, row: number): Float32Array {
  const key = `${column} ${row}`;
  const block = made.get(key) ?? surveyed(column, row);
  made.set(key, block);
  return block[set];
}

function surveyed(column: number, row: number): Readonly<Record<DataSet, Float32Array>> {
  const [x0, y0] = [Math.round(column * BLOCK * 3600), Math.round(row * BLOCK * 3600)];
  const ground = new Lattice(x0, y0);
  const block = (set: DataSet, heightAt: (x: number, y: number) => number): Float32Array => {
    const side = quadsOf(set) + 1;
    const { seconds } = DATA_SETS[set];
    return Float32Array.from({ length: side * side }, (_, i) =>
      heightAt(x0 + (i % side) * seconds, y0 + Math.floor(i / side) * seconds),
    );
  };
  const fine = block('fine', (x, y) => (unseen(ground, x, y) ? NaN : rounded(ground.at(x, y))));
  const composite = block('composite', (x, y) =>
    unseen(ground, x, y) ? filledAt(ground, x, y) : rounded(ground.at(x, y)),
  );
  return { fine, composite, coarse: block('coarse', (x, y) => coarseAt(ground, x, y)) };
}

/** Pixels along a side of a block on the plain map. */
export const MAP_SIDE = 120;

/** The plain map of a block: red, green, blue for each pixel, rows from the north. Pixels are cells of 3 seconds. */
export function blockMap(column: number, row: number): Uint8Array {
  const out = new Uint8Array(MAP_SIDE * MAP_SIDE * 3);
  for (let j = 0; j < MAP_SIDE; j++)
    for (let i = 0; i < MAP_SIDE; i++) {
      const [x, y] = [column * 360 + 3 * i + 1.5, row * 360 + 3 * j + 1.5];
      out.set(colourOf(trueHeight(x, y), trueHeight(x + 3, y + 3)), 3 * (j * MAP_SIDE + i));
    }
  return out;
}

/** Water flat; land from shore to crest, lit from the north-west, with a line every 100 m. */
function colourOf(height: number, beyond: number): [number, number, number] {
  if (height <= 0) return [176, 200, 208];
  const light = Math.max(-34, Math.min(34, (height - beyond) * 0.55));
  const line = Math.floor(height / 100) === Math.floor(beyond / 100) ? 0 : -26;
  const share = Math.min(1, height / 1100);
  const mix = (low: number, high: number): number =>
    Math.max(0, Math.min(255, Math.round(low + (high - low) * share + light + line)));
  return [mix(186, 236), mix(196, 232), mix(156, 222)];
}
