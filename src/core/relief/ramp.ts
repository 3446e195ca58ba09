/** Our own terrain tint: dark peat, moss, lichen, pale stone, snow. Even steps of lightness from low to high. */
const STOPS: readonly (readonly [number, number, number])[] = [
  [58, 54, 44],
  [78, 84, 58],
  [107, 117, 77],
  [141, 148, 104],
  [173, 172, 143],
  [205, 202, 186],
  [240, 240, 236],
];

export const RAMP_SIZE = 1024;

/** The ramp as RGB triples, low to high. */
export const RAMP: Uint8ClampedArray = (() => {
  const out = new Uint8ClampedArray(RAMP_SIZE * 3);
  for (let i = 0; i < RAMP_SIZE; i++) {
    const at = (i / (RAMP_SIZE - 1)) * (STOPS.length - 1);
    const k = Math.min(STOPS.length - 2, Math.floor(at));
    const a = STOPS[k]!;
    const b = STOPS[k + 1]!;
    for (let c = 0; c < 3; c++) out[i * 3 + c] = a[c]! + (b[c]! - a[c]!) * (at - k);
  }
  return out;
})();
