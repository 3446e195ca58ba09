import fc from 'fast-check';
import { RAMP } from './ramp';
import { shade, shadeDifference, type ShadeOptions } from './shade';
import { MAP_COLOURS, swatch } from './swatch';
import { tintedPlain, tintedRelief } from './tinted';

const base: ShadeOptions = {
  view: 'relief',
  spacingX: 2,
  spacingY: 2,
  low: 0,
  high: 100,
  relief: 1,
  step: 0.5,
  water: null,
  ink: [10, 20, 30],
  paper: [250, 240, 230],
};

/** A grid with its margin: height of column x and row y, both from −1. */
const grid = (width: number, height: number, of: (x: number, y: number) => number): Float32Array =>
  Float32Array.from({ length: (width + 2) * (height + 2) }, (_, i) =>
    of((i % (width + 2)) - 1, Math.floor(i / (width + 2)) - 1),
  );

const drawn = (heights: Float32Array, width: number, height: number, o: Partial<ShadeOptions> = {}): number[][] => {
  const out = new Uint8ClampedArray(width * height * 4);
  shade(out, heights, width, height, { ...base, ...o });
  return Array.from({ length: width * height }, (_, i) => [...out.subarray(i * 4, i * 4 + 4)]);
};

test('flat ground has the plain tint of its height in both tinted views', () => {
  for (const view of ['relief', 'heights'] as const) {
    for (const [h, place] of [
      [0, 0],
      [100, 1023],
      [50, 511],
      [-20, 0],
      [180, 1023],
    ] as const) {
      const colour = [...RAMP.subarray(place * 3, place * 3 + 3), 255];
      expect(
        drawn(
          grid(5, 2, () => h),
          5,
          2,
          { view },
        ),
      ).toEqual(Array(10).fill(colour));
    }
  }
});

test('slopes that face north-west are lighter than flat ground, those that face south-east darker', () => {
  const sum = (pixels: number[][]): number => pixels[0]![0]! + pixels[0]![1]! + pixels[0]![2]!;
  const tilted = (rise: number): number =>
    sum(
      drawn(
        grid(1, 1, (x, y) => 50 + rise * (x + y)),
        1,
        1,
      ),
    );
  // ground that rises towards the south-east faces the light
  expect(tilted(0.5)).toBeGreaterThan(tilted(0));
  expect(tilted(-0.5)).toBeLessThan(tilted(0));
  // ground turned quite away from the light keeps 38 % of its tint
  const mid = RAMP.subarray(511 * 3, 511 * 3 + 3);
  expect(
    drawn(
      grid(1, 1, (x, y) => 50 - 1000 * (x + y)),
      1,
      1,
    )[0]!.slice(0, 3),
  ).toEqual([...mid].map((c) => Math.round(c * 0.38)));
});

test('a void is paper in every view, and its neighbours stay drawn', () => {
  const heights = grid(3, 1, (x) => (x === 1 ? NaN : 50));
  for (const view of ['relief', 'heights', 'slope', 'steps'] as const) {
    const [left, middle, right] = drawn(heights, 3, 1, { view });
    expect(middle).toEqual([250, 240, 230, 255]);
    for (const pixel of [left, right]) expect(pixel!.every((c) => c === c)).toBe(true);
  }
});

test('slope goes from paper on the flat to ink at 60°; steps are ink where a terrace is a sample wide', () => {
  const rising = (grade: number) => grid(1, 1, (x) => 50 + grade * 2 * x);
  const pixel = (grade: number, view: 'slope' | 'steps') => drawn(rising(grade), 1, 1, { view })[0]!.slice(0, 3);
  expect(pixel(0, 'slope')).toEqual([250, 240, 230]);
  expect(pixel(Math.tan(Math.PI / 3) + 0.001, 'slope')).toEqual([10, 20, 30]);
  expect(pixel(Math.tan(Math.PI / 6), 'slope')).toEqual([130, 130, 130]);
  // a step of 0.5 m over samples 2 m apart: one sample wide at a grade of 0.25
  expect(pixel(0.25, 'steps')).toEqual([10, 20, 30]);
  expect(pixel(0.5, 'steps')).toEqual([130, 130, 130]);
});

test('water is hatched every fourth row, dry ground is left alone', () => {
  const ground = grid(1, 5, () => 20);
  const dry = drawn(ground, 1, 5, { view: 'heights', water: 19 });
  expect(dry).toEqual(drawn(ground, 1, 5, { view: 'heights' }));
  const wet = drawn(ground, 1, 5, { view: 'heights', water: 20 });
  expect(wet[0]).toEqual(wet[4]);
  expect(wet[1]).toEqual(wet[2]);
  expect(wet[0]![0]).toBeLessThan(wet[1]![0]!);
});

test('the kernel draws the bytes of its plain twin', () => {
  const height = fc.oneof(
    { weight: 9, arbitrary: fc.float({ min: -2000, max: 9000, noNaN: true }) },
    { weight: 1, arbitrary: fc.constant(NaN) },
  );
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 19 }),
      fc.integer({ min: 1, max: 6 }),
      fc.boolean(),
      fc.float({ min: Math.fround(0.01), max: 40, noNaN: true }),
      fc.float({ min: -500, max: 500, noNaN: true }),
      fc.array(height, { minLength: 168, maxLength: 168 }),
      (width, rows, shaded, slope, low, values) => {
        const heights = Float32Array.from(values.slice(0, (width + 2) * (rows + 2)));
        const t = {
          low,
          tint: Math.fround(0.11),
          slopeX: Math.fround(slope),
          slopeY: Math.fround(slope * 0.7),
          shaded,
          paper: [233, 237, 232],
        } as const;
        const a = new Uint8ClampedArray(width * rows * 4);
        const b = new Uint8ClampedArray(width * rows * 4);
        tintedRelief(a, heights, width, rows, t);
        tintedPlain(b, heights, width, rows, t);
        expect([...a]).toEqual([...b]);
      },
    ),
    { numRuns: 300 },
  );
});

test('the difference view is paper at 0 and grows to a colour of its own on each side of it', () => {
  const out = new Uint8ClampedArray(7 * 4);
  shadeDifference(out, Float32Array.of(0, 1, 2, 9, -1, -2, -9), 2, [255, 255, 255]);
  const pixels = Array.from({ length: 7 }, (_, i) => [...out.subarray(i * 4, i * 4 + 3)]);
  const [above, below] = [
    [142, 34, 28],
    [20, 62, 122],
  ];
  expect(pixels).toEqual([[255, 255, 255], [199, 146, 52], above, above, [92, 158, 190], below, below]);
});

test('steps look alike however coarse the ground is drawn', () => {
  const { ink, paper } = MAP_COLOURS.film;
  const drawn = (shrink: number): number[] => {
    const out = new Uint8ClampedArray(4);
    // a slope of 2 % on samples 2.5 m apart, each `shrink`th of them drawn
    const plane = Float32Array.from({ length: 9 }, (_, i) => (i % 3) * 2.5 * shrink * 0.02);
    const spacing = { spacingX: 2.5 * shrink, spacingY: 2.5 * shrink };
    shade(out, plane, 1, 1, {
      view: 'steps',
      ...spacing,
      low: 0,
      high: 1,
      relief: 1,
      step: 0.025,
      shrink,
      water: null,
      ink,
      paper,
    });
    return [...out];
  };
  // a step of 25 mm is half a sample wide there
  const half = paper.map((p, c) => Math.round(p + (ink[c]! - p) / 2));
  drawn(1)
    .slice(0, 3)
    .forEach((v, c) => expect(Math.abs(v - half[c]!)).toBeLessThanOrEqual(1));
  expect(drawn(8)).toEqual(drawn(1));
});

test('a legend shows the colours that the map draws, from the least value to the greatest', () => {
  const { ink, paper, sheet } = MAP_COLOURS.film;
  const at = (row: Uint8ClampedArray, i: number): number[] => [...row.subarray(i * 4, i * 4 + 3)];
  const slope = swatch('slope', 61, MAP_COLOURS.film);
  expect(at(slope, 0)).toEqual([...paper]);
  expect(at(slope, 60)).toEqual([...ink]);
  // a plane of 30° drawn by the map, beside the middle of the legend
  const plane = new Float32Array(9);
  for (let i = 0; i < 9; i++) plane[i] = (i % 3) * Math.tan(Math.PI / 6);
  const drawn = new Uint8ClampedArray(4);
  const how = { spacingX: 1, spacingY: 1, low: 0, high: 1, relief: 1, step: 1, water: null, ink, paper } as const;
  shade(drawn, plane, 1, 1, { view: 'slope', ...how });
  for (let c = 0; c < 3; c++) expect(Math.abs(drawn[c]! - at(slope, 30)[c]!)).toBeLessThanOrEqual(1);
  // heights: the ends and the middle as they are tinted
  const heights = swatch('heights', 3, MAP_COLOURS.film);
  [0, 0.5, 1].forEach((h, i) => {
    shade(drawn, new Float32Array(9).fill(h), 1, 1, { view: 'heights', ...how });
    for (let c = 0; c < 3; c++) expect(Math.abs(drawn[c]! - at(heights, i)[c]!)).toBeLessThanOrEqual(1);
  });
  // a difference: from its limit below over none to its limit above
  const difference = swatch('difference', 9, MAP_COLOURS.film);
  expect(at(difference, 4)).toEqual([...sheet]);
  const ends = new Uint8ClampedArray(8);
  shadeDifference(ends, Float32Array.of(-3, 3), 3, sheet);
  expect([at(difference, 0), at(difference, 8)]).toEqual([at(ends, 0), at(ends, 1)]);
});
