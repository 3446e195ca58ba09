import fc from 'fast-check';
import { recipeWith } from '../../../tests/helpers/rasters';
import { highestStored } from '../raster';
import { targetOf } from '../targets';
import {
  aboveDatum,
  calibrate,
  exaggerated,
  exaggeratedElevation,
  flatteningFactor,
  storedStep,
  heightRange,
  metresOf,
  precision,
  quantise,
  quantiserFor,
  rangeOfScale,
  scaleOfRange,
  worldZero,
} from '.';

const component = targetOf('component-grid');
const odd = targetOf('odd-grid');
const info = (bitDepth: number, sampleType: 'uint' | 'int' | 'float' = 'uint') => ({
  format: 'raw' as const,
  width: 2,
  height: 2,
  channels: 1,
  bitDepth,
  sampleType,
  byteOrder: null,
  warnings: [],
});

test('the highest code stands for the highest elevation, at every depth', () => {
  expect([8, 16, 32].map((bits) => highestStored(info(bits)))).toEqual([255, 65535, 4294967295]);
  expect([8, 16].map((bits) => highestStored(info(bits, 'int')))).toEqual([127, 32767]);
  for (const bits of [8, 16, 32]) {
    const { unit, offset } = calibrate(recipeWith({}), info(bits));
    expect(offset).toBe(1310);
    expect(offset + unit * highestStored(info(bits))).toBeCloseTo(2140, 9);
  }
});

test('a miniature shrinks heights with the ground', () => {
  const { unit, offset } = calibrate(recipeWith({ fit: { worldScale: 0.25 } }), info(16));
  expect(offset).toBe(327.5);
  expect(offset + unit * 65535).toBeCloseTo(535, 9);
});

test('shares are held to 0 and 1 and counted beyond half of their last bit; metres have no ends; voids are counted', () => {
  const heights = Float32Array.of(-0.5, 0, 415, 830, 830.5, NaN);
  const shares = new Float32Array(6);
  const tally = { below: 0, above: 0, voids: 0 };
  quantise(shares, heights, quantiserFor({ unit: 1, offset: 1310 }, { low: 1310, high: 2140 }, 1, 'shares'), tally);
  expect([...shares]).toEqual([0, 0, 0.5, 1, 1, 0]);
  expect(tally).toEqual({ below: 1, above: 1, voids: 1 });
  const metres = new Float32Array(6);
  const none = { below: 0, above: 0, voids: 0 };
  quantise(metres, heights, metresOf({ unit: 0.3048, offset: 12.5 }), none);
  expect([...metres].slice(0, 5)).toEqual([-0.5, 0, 415, 830, 830.5].map((h) => Math.fround(12.5 + h * 0.3048)));
  expect(none).toEqual({ below: 0, above: 0, voids: 1 });
});

test('heights that floats can’t tell apart are one height, and get a metre', () => {
  const of = (high: number) => {
    const ends = { low: 2048, high };
    return heightRange(recipeWith({}), component, { source: ends, ground: ends, codes: null });
  };
  // a float of 32 bits tells 2 ** -12 apart there
  expect(of(2048 + 2 ** -14)).toMatchObject({ flat: true, low: 2048, high: 2049 });
  expect(of(2048 + 2 ** -12)).toMatchObject({ flat: false, high: 2048 + 2 ** -12 });
});

test('floats without elevations are metres; whole numbers without them are refused', () => {
  const metres = { low: undefined, high: undefined };
  expect(calibrate(recipeWith({ source: metres }), info(32, 'float'))).toEqual({ unit: 1, offset: 0 });
  expect(() => calibrate(recipeWith({ source: metres }), info(16))).toThrow(
    expect.objectContaining({ code: 'calibration' }),
  );
});

describe('what was done to heights before is undone', () => {
  const of = (heights: object, i = info(16)) => calibrate(recipeWith({ source: { heights } }), i);
  test('a stretch is divided out, the low end stays', () => {
    // 830 m were written as 1494 m: ×1.8
    const { unit, offset } = of({ as: 'ends', low: 1310, high: 2804, stretch: 1.8 });
    expect(offset).toBe(1310);
    expect(offset + unit * 65535).toBeCloseTo(2140, 9);
    expect(of({ as: 'step', step: 0.018, base: 50, stretch: 1.8 }).unit).toBeCloseTo(0.01, 15);
    expect(of({ as: 'elevations', unit: 'foot', stretch: 2 })).toEqual({ unit: 0.1524, offset: 0 });
  });
  test('codes that were cut off stand half a step higher', () => {
    // 255 codes over 510 m: 2 m a code, 1 m higher
    expect(of({ as: 'ends', low: 0, high: 510, truncated: true }, info(8))).toEqual({ unit: 2, offset: 1 });
    expect(of({ as: 'step', step: 2, base: 10, truncated: true, stretch: 4 }, info(8))).toEqual({
      unit: 0.5,
      offset: 10.25,
    });
    // floats are not cut off
    expect(of({ as: 'ends', low: 0, high: 510, truncated: true }, info(32, 'float'))).toEqual({ unit: 510, offset: 0 });
  });
  test('units of elevations', () => {
    const units = ['metre', 'decimetre', 'centimetre', 'foot', 'us-survey-foot'];
    expect(units.map((unit) => of({ as: 'elevations', unit }, info(16, 'int')).unit)).toEqual([
      1,
      0.1,
      0.01,
      0.3048,
      1200 / 3937,
    ]);
  });
});

test('a datum changes what a sample is, not what it stands for', () => {
  const plain = calibrate(recipeWith({}), info(32));
  const { unit, offset } = aboveDatum(plain, 4_000_000_000);
  expect(offset + unit * 100).toBeCloseTo(plain.offset + plain.unit * 4_000_000_100, 9);
});

test('exaggeration multiplies heights about its pivot and leaves the pivot where it is', () => {
  const { unit, offset } = exaggerated({ unit: 0.5, offset: 1000 }, 1100, 3);
  // 200 samples above the offset lies 1100 m, which stays; 300 samples above it 1150 m, which becomes 1250 m
  expect(offset + unit * 200).toBeCloseTo(1100, 9);
  expect(offset + unit * 300).toBeCloseTo(1250, 9);
  expect(exaggeratedElevation(1150, 1100, 3)).toBe(1250);
  expect(exaggeratedElevation(1150, 1100, 1)).toBe(1150);
});

test('exaggerated ranges grow about their low end; everything the recipe names grows with them', () => {
  const of = (height: object) => heightRange(recipeWith({ height: { exaggeration: 2, ...height } }), component, spans);
  expect(of({ range: 'source' })).toMatchObject({ low: 1310, high: 1310 + 2 * 830, pivot: 1310 });
  expect(of({ range: 'pinned', low: 1000, high: 3000 })).toMatchObject({ low: 1000, high: 5000 });
  const fixed = of({ strategy: 'fixed', scale: 200, anchor: { at: 'highest', elevation: 2140 } });
  expect(fixed.high).toBeCloseTo(1310 + 2 * 830, 9);
  expect(fixed.high - fixed.low).toBeCloseTo(2 * 511.9921875, 9);
});

test('a factor that flattens ground to a fixed scale fills it from end to end', () => {
  expect(flatteningFactor({ low: 1310, high: 2140 }, 100, component)).toBeCloseTo(511.9921875 / 830, 12);
  expect(flatteningFactor({ low: 5, high: 5 }, 100, component)).toBe(1);
});

test('the step of a source is that of its values, not of its bits', () => {
  const of = (over: object) =>
    storedStep({ samples: 10_000, voids: 0, min: 0, max: 65535, distinctCodes: 40_000, codeStep: 1, ...over });
  expect(of({})).toBe(1);
  expect(of({ distinctCodes: 256, codeStep: 257 })).toBe(257);
  // 8 bits that went through a curve: no common step, 255 gaps over the whole
  expect(of({ distinctCodes: 256, codeStep: 1 })).toBe(257);
  // few samples say nothing about the values between
  expect(of({ samples: 400, distinctCodes: 200 })).toBe(1);
  // 200 neighbouring codes of gentle ground
  expect(of({ distinctCodes: 200, min: 900, max: 1099 })).toBe(1);
  expect(of({ distinctCodes: 1, codeStep: null })).toBeNull();
  expect(of({ codeStep: null })).toBeNull();
  expect(of({ min: null, max: null, distinctCodes: 0, codeStep: null })).toBeNull();
});

const source = { low: 1310, high: 2140 };
const ground = { low: 1402, high: 2087 };
const spans = { source, ground, codes: { low: 1300, high: 2200 } };

test('the range follows source, ground or what is pinned', () => {
  const of = (height: object) => {
    const { low, high } = heightRange(recipeWith({ height }), component, spans);
    return [low, high];
  };
  expect(of({ range: 'source' })).toEqual([1310, 2140]);
  expect(of({ range: 'ground' })).toEqual([1402, 2087]);
  expect(of({ range: 'codes' })).toEqual([1300, 2200]);
  expect(of({ range: 'pinned', low: 0, high: 3000 })).toEqual([0, 3000]);
});

test('headroom is a share of the written range, below and above', () => {
  const { low, high, groundLow, groundHigh } = heightRange(
    recipeWith({ height: { range: 'ground', strategy: 'headroom', below: 10, above: 20 } }),
    component,
    spans,
  );
  // 685 m are 70 % of the whole
  expect(high - low).toBeCloseTo(685 / 0.7, 9);
  expect((1402 - low) / (high - low)).toBeCloseTo(0.1, 12);
  expect((high - 2087) / (high - low)).toBeCloseTo(0.2, 12);
  expect([groundLow, groundHigh]).toEqual([1402, 2087]);
});

test('flat ground gets one metre and is told', () => {
  const flat = heightRange(recipeWith({ height: { range: 'ground' } }), component, {
    source: { low: 7, high: 7 },
    ground: { low: 7, high: 7 },
    codes: null,
  });
  expect(flat).toMatchObject({ low: 7, high: 8, groundLow: 7, groundHigh: 7, flat: true });
});

test('a fixed scale reaches the same metres wherever it is anchored', () => {
  const at = (where: string) =>
    heightRange(
      recipeWith({
        height: { range: 'source', strategy: 'fixed', scale: 100, anchor: { at: where, elevation: 1500 } },
      }),
      component,
      spans,
    );
  // 100 in centimetres over 128: 65535/128 m
  for (const where of ['lowest', 'middle', 'highest'])
    expect(at(where).high - at(where).low).toBeCloseTo(511.9921875, 9);
  expect(at('lowest').low).toBe(1500);
  expect(at('highest').high).toBeCloseTo(1500, 9);
  expect(at('middle').low + (32768 / 65535) * 511.9921875).toBeCloseTo(1500, 9);
});

test('scale and range are each other’s inverse', () => {
  expect(scaleOfRange(830, component)).toBeCloseTo((830 * 12800) / 65535, 10);
  expect(scaleOfRange(830, odd)).toBe(830);
  fc.assert(
    fc.property(fc.double({ min: 0.01, max: 1e5, noNaN: true }), fc.constantFrom(component, odd), (metres, target) => {
      expect(rangeOfScale(scaleOfRange(metres, target), target)).toBeCloseTo(metres, 6);
    }),
  );
});

test('what lies at world zero is what the recipe says', () => {
  const range = {
    low: 1310,
    high: 2140,
    groundLow: 1402,
    groundHigh: 2087,
    pivot: 1310,
    flat: false,
    plain: { low: 1310, high: 2140 },
  };
  const zero = (offset: string, more: object = {}) =>
    worldZero(recipeWith({ height: { range: 'source', offset, ...more } }), component, range);
  expect(zero('lowest-code')).toBe(1310);
  expect(zero('lowest-ground')).toBe(1402);
  expect(zero('survey')).toBe(0);
  expect(zero('sea', { sea: 1310.5 })).toBe(1310.5);
  expect(zero('middle-code')).toBeCloseTo(1310 + (830 * 32768) / 65535, 10);
});

test('a step tells how wide terraces are and how much even ground jitters; the larger of both steps counts', () => {
  // 12.66 mm on 2.5 m: 2 % of 2.5 m are 50 mm
  expect(precision(0.012665, null, 2.5)).toEqual({
    step: 0.012665,
    sourceStep: null,
    effectiveStep: 0.012665,
    terraceAt2Percent: expect.closeTo(0.2533, 6) as number,
    jitterPercent: expect.closeTo(0.5066, 6) as number,
  });
  expect(precision(0.01, 1.96, 2.5)).toMatchObject({ step: 0.01, sourceStep: 1.96, effectiveStep: 1.96 });
  expect(precision(0.01, 1.96, 2.5).terraceAt2Percent).toBeCloseTo(39.2, 6);
  expect(precision(0.01, 0.005, 2.5).effectiveStep).toBe(0.01);
});

test('codes read back lie within half a step of their heights; what lies outside is counted', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -500, max: 3000, noNaN: true }),
      fc.double({ min: 1, max: 9000, noNaN: true }),
      fc.integer({ min: 1, max: 300 }),
      (low, metres, count) => {
        const range = { low, high: low + metres };
        const calibration = { unit: 0.37, offset: low - 0.2 * metres };
        // heights from well below the range to well above it, and a void
        const heights = Float32Array.from({ length: count }, (_, i) => ((i / count) * 1.4 * metres) / 0.37);
        if (count > 3) heights[3] = NaN;
        const codes = new Uint16Array(count);
        const tally = { below: 0, above: 0, voids: 0 };
        quantise(codes, heights, quantiserFor(calibration, range, 65535), tally);
        const step = metres / 65535;
        const counted = { below: 0, above: 0, voids: 0 };
        heights.forEach((h, i) => {
          const elevation = calibration.offset + calibration.unit * h;
          if (Number.isNaN(elevation)) counted.voids++;
          else if (elevation < range.low - step / 2) counted.below++;
          else if (elevation >= range.high + step / 2) counted.above++;
          else expect(Math.abs(range.low + codes[i]! * step - elevation)).toBeLessThanOrEqual(step / 2 + 1e-9 * metres);
        });
        expect(Math.abs(tally.below - counted.below)).toBeLessThanOrEqual(1);
        expect(Math.abs(tally.above - counted.above)).toBeLessThanOrEqual(1);
        expect(tally.voids).toBe(counted.voids);
      },
    ),
    { numRuns: 80 },
  );
});
