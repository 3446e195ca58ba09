/**
 * A system on a grid: `diag · u` less `east` and `south` times the neighbours, which are the same both ways. Around it lies
 * a line of nothing; a place that does not belong to it has no diagonal.
 */
export interface Level {
  readonly wide: number;
  readonly tall: number;
  readonly diag: Float64Array;
  /** 1 / diag, 0 where there is none. */
  readonly share: Float64Array;
  /** To the neighbour in the east, and in the south. */
  readonly east: Float64Array;
  readonly south: Float64Array;
  /** Room to work in. */
  readonly u: Float64Array;
  readonly f: Float64Array;
  readonly r: Float64Array;
}

export function levelOf(
  wide: number,
  tall: number,
  { diag, east, south }: Pick<Level, 'diag' | 'east' | 'south'>,
): Level {
  const zeros = (): Float64Array => new Float64Array(wide * tall);
  const share = diag.map((d) => (d > 0 ? 1 / d : 0));
  return { wide, tall, diag, share, east, south, u: zeros(), f: zeros(), r: zeros() };
}

/** Grids are made coarser until they have so few places. */
const FEW = 64;
/** Heights that are the same over two by two places are twice as stiff as the ground is: made up for (D. Braess, 1995). */
const SOFTER = 0.5;

/** The same system on grids of half as many places a side, each made of two by two, down to a few. */
export function coarserOf(finest: Level): Level[] {
  const levels = [finest];
  for (;;) {
    const fine = levels.at(-1)!;
    if (fine.wide * fine.tall <= FEW) return levels;
    const wide = Math.ceil((fine.wide - 2) / 2) + 2;
    const tall = Math.ceil((fine.tall - 2) / 2) + 2;
    const diag = new Float64Array(wide * tall);
    const east = new Float64Array(wide * tall);
    const south = new Float64Array(wide * tall);
    for (let y = 1; y < fine.tall - 1; y++)
      for (let x = 1; x < fine.wide - 1; x++) {
        const i = y * fine.wide + x;
        if (fine.diag[i] === 0) continue;
        const at = ((y + 1) >> 1) * wide + ((x + 1) >> 1);
        diag[at] = diag[at]! + fine.diag[i]!;
        // what lies within one coarse place pulls at nothing
        if (x & 1) diag[at] = diag[at] - 2 * fine.east[i]!;
        else east[at] = east[at]! + fine.east[i]!;
        if (y & 1) diag[at] = diag[at] - 2 * fine.south[i]!;
        else south[at] = south[at]! + fine.south[i]!;
      }
    for (let i = 0; i < diag.length; i++) {
      diag[i] = diag[i]! * SOFTER;
      east[i] = east[i]! * SOFTER;
      south[i] = south[i]! * SOFTER;
    }
    levels.push(levelOf(wide, tall, { diag, east, south }));
  }
}

/** `out = A · u`. */
export function applied({ wide, diag, east, south }: Level, u: Float64Array, out: Float64Array): void {
  const end = diag.length - wide;
  for (let i = wide; i < end; i++) {
    const d = diag[i]!;
    if (d === 0) continue;
    out[i] =
      d * u[i]! -
      (east[i]! * u[i + 1]! + east[i - 1]! * u[i - 1]! + south[i]! * u[i + wide]! + south[i - wide]! * u[i - wide]!);
  }
}

/** Damping and number of sweeps before and after each coarser grid: as many on both sides, so that it stays symmetric. */
const DAMPING = 0.8;
const SWEEPS = 2;

function swept(level: Level): void {
  const { u, f, r, share, wide } = level;
  const end = u.length - wide;
  for (let n = 0; n < SWEEPS; n++) {
    applied(level, u, r);
    for (let i = wide; i < end; i++) u[i] = u[i]! + DAMPING * share[i]! * (f[i]! - r[i]!);
  }
}

/** About what solves the system of level `k` for its `f`, to its `u`: one way down to the coarsest grid and back. */
export function aboutSolved(levels: readonly Level[], k = 0): void {
  const level = levels[k]!;
  const { u, f, r, wide, tall, diag } = level;
  u.fill(0);
  const coarse = levels[k + 1];
  if (!coarse) {
    for (let n = 0; n < 8; n++) swept(level);
    return;
  }
  swept(level);
  applied(level, u, r);
  coarse.f.fill(0);
  for (let y = 1; y < tall - 1; y++)
    for (let x = 1; x < wide - 1; x++) {
      const i = y * wide + x;
      if (diag[i] === 0) continue;
      const at = ((y + 1) >> 1) * coarse.wide + ((x + 1) >> 1);
      coarse.f[at] = coarse.f[at]! + f[i]! - r[i]!;
    }
  aboutSolved(levels, k + 1);
  for (let y = 1; y < tall - 1; y++)
    for (let x = 1; x < wide - 1; x++) {
      const i = y * wide + x;
      if (diag[i] !== 0) u[i] = u[i]! + coarse.u[((y + 1) >> 1) * coarse.wide + ((x + 1) >> 1)]!;
    }
  swept(level);
}
