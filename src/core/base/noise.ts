/** A small, fast generator with a fixed seed (mulberry32, T. Ettinger, public domain): the demo data is the same everywhere. */
export function random(seed: number): () => number {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Gradient noise on an integer lattice (K. Perlin, 2002), about −1..1, without derivatives. */
export function gradientNoise(seed: number): (x: number, y: number) => number {
  const next = random(seed);
  const table = new Uint8Array(512);
  const order = Array.from({ length: 256 }, (_, i) => i);
  for (let i = 255; i > 0; i--) {
    const j = Math.floor(next() * (i + 1));
    [order[i], order[j]] = [order[j]!, order[i]!];
  }
  for (let i = 0; i < 512; i++) table[i] = order[i & 255]!;
  const gx = Float64Array.from({ length: 256 }, (_, i) => Math.cos((i / 256) * 2 * Math.PI));
  const gy = Float64Array.from({ length: 256 }, (_, i) => Math.sin((i / 256) * 2 * Math.PI));
  const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10);
  return (x, y) => {
    const xi = Math.floor(x);
    const yi = Math.floor(y);
    const fx = x - xi;
    const fy = y - yi;
    const corner = (dx: number, dy: number): number => {
      const h = table[table[(xi + dx) & 255]! + ((yi + dy) & 255)]!;
      return gx[h]! * (fx - dx) + gy[h]! * (fy - dy);
    };
    const u = fade(fx);
    const v = fade(fy);
    const top = corner(0, 0) + (corner(1, 0) - corner(0, 0)) * u;
    const bottom = corner(0, 1) + (corner(1, 1) - corner(0, 1)) * u;
    return (top + (bottom - top) * v) * 1.414;
  };
}
