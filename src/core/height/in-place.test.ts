import fc from 'fast-check';
import { targetOf } from '../targets';
import { correctedInPlace } from '.';

const centred = targetOf('component-grid').heights;
const span = targetOf('odd-grid').heights;
/** What the targets make of a code, in centimetres, and in metres. */
const shownCentred = (code: number, scale: number, offset: number): number => ((code - 32768) / 128) * scale + offset;
const shownSpan = (code: number, range: number, base: number): number => base + (code / 65535) * range;

test('a summit that stands 400 m too low: moved up, or stretched from the lowest code', () => {
  // scale 100 and offset 25 600: code 0 lies at 0, code 49 152 at 384 m
  expect(shownCentred(49152, 100, 25600)).toBe(38400);
  const found = correctedInPlace(centred, { scale: 100, offset: 25600 }, { shown: 38400, wanted: 78400 })!;
  expect(found.moved).toEqual({ scale: 100, offset: 65600 });
  expect(shownCentred(49152, 100, 65600)).toBe(78400);
  const { scale, offset } = found.stretched!;
  expect(shownCentred(0, scale, offset)).toBeCloseTo(0, 9);
  expect(shownCentred(49152, scale, offset)).toBeCloseTo(78400, 9);
});

test('whatever was typed, both ways bring the place to its height', () => {
  const number = fc.double({ min: 0.5, max: 4000, noNaN: true });
  fc.assert(
    fc.property(
      number,
      number,
      fc.integer({ min: 1, max: 65535 }),
      number,
      fc.boolean(),
      (scale, offset, code, by, metres) => {
        const shows = metres ? shownSpan : shownCentred;
        const shown = shows(code, scale, offset);
        const wanted = shown + by;
        const { moved, stretched } = correctedInPlace(metres ? span : centred, { scale, offset }, { shown, wanted })!;
        expect(shows(code, moved.scale, moved.offset)).toBeCloseTo(wanted, 6);
        expect(moved.scale).toBe(scale);
        const size = Math.abs(stretched!.offset) + Math.abs(stretched!.scale) * 256;
        expect(Math.abs(shows(code, stretched!.scale, stretched!.offset) - wanted)).toBeLessThan(1e-9 * size + 1e-6);
        expect(Math.abs(shows(0, stretched!.scale, stretched!.offset) - shows(0, scale, offset))).toBeLessThan(
          1e-9 * size + 1e-6,
        );
      },
    ),
  );
});

test('at or below the lowest code nothing is stretched; blocks and fixed steps are given no scale', () => {
  expect(correctedInPlace(span, { scale: 830, offset: 10 }, { shown: 10, wanted: 25 })).toEqual({
    moved: { scale: 830, offset: 25 },
    stretched: null,
  });
  expect(correctedInPlace(span, { scale: 830, offset: 10 }, { shown: 300, wanted: 5 })?.stretched).toBeNull();
  for (const id of ['fixed-step', 'voxel-layers'])
    expect(correctedInPlace(targetOf(id).heights, { scale: 1, offset: 0 }, { shown: 1, wanted: 2 })).toBeNull();
});
