import { readNumber } from './arithmetic';
import { tied } from './tied';

test.each([
  ['601*30', 18030],
  ['1.5k', 1500],
  ['12.5k', 12500],
  ['30k', 30000],
  ['2k*3', 6000],
  ['3 837,5', 3837.5],
  ['3\u202f837', 3837],
  ['−12', -12],
  ['2^10', 1024],
  ['(8 + 1)/2', 4.5],
  ['1e3', 1000],
  [' 7 ', 7],
])('%s is the number %d', (text, value) => {
  expect(readNumber(text)).toBe(value);
});

test.each([
  ['1500 m', 'm', 1500],
  ['1.5 km', 'm', 1500],
  ['1.5k', 'm', 1500],
  ['4921 ft', 'm', 4921 * 0.3048],
  ['1 km + 250', 'm', 1250],
  ['10 km / 2 km', 'm', 5],
  ['(1 + 2) km', 'm', 3000],
  ['2 m', 'cm', 200],
  ['35 cm', 'cm', 35],
  ['1,234,567 m', 'm', 1234567],
  ['1,234.5', 'm', 1234.5],
  ['1,5 km', 'm', 1500],
] as const)('%s in a field of %s is %d', (text, unit, value) => {
  expect(readNumber(text, unit)).toBeCloseTo(value, 9);
});

test('a unit is taken only where the field has a length', () => {
  expect(readNumber('5 m', '')).toBeNull();
  expect(readNumber('5 furlongs', 'm')).toBeNull();
  expect(readNumber('5 m 2', 'm')).toBeNull();
});

test.each(['', ' ', 'abc', '1/0', '"5"', 'random()', 'PI', '2**', '1;2', 'x=1', '[1]', '5m'])(
  '%j is no number',
  (text) => {
    expect(readNumber(text)).toBeNull();
  },
);

test.each([
  ['1 643 samples below and 1 above', '1\u00a0643 samples below and 1 above'],
  ['12 of 2 331 729 at 12.7 mm a step', '12 of 2\u00a0331\u00a0729 at 12.7\u00a0mm a step'],
  ['99.3 % kept, 3 more, 16 bit', '99.3\u00a0% kept, 3 more, 16\u00a0bit'],
  ['in 1 2345', 'in 1 2345'],
])('%s stays together', (text, kept) => {
  expect(tied(text)).toBe(kept);
});
