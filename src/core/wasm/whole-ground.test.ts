import * as fc from 'fast-check';
import { plainExtremes } from '../proof/twin/ground';
import { endsKernel, WholeGroundKernel } from './whole-ground';

test('ends of codes and of floats, with samples that have no value anywhere, equal their twin', () => {
  fc.assert(
    fc.property(fc.uint16Array({ minLength: 1, maxLength: 70 }), (codes) => {
      expect(endsKernel(codes)).toEqual(plainExtremes(codes));
    }),
  );
  const sample = fc.oneof(fc.float({ noNaN: true }), fc.constantFrom(NaN, Infinity, -Infinity));
  fc.assert(
    fc.property(fc.array(sample, { minLength: 1, maxLength: 40 }), (list) => {
      const floats = Float32Array.from(list, (v) => v + 0);
      expect(endsKernel(floats)).toEqual(plainExtremes(floats));
    }),
  );
  expect(endsKernel(new Float32Array(0))).toBeNull();
});

test('a row is weighed by its shares and added to a row of vertices, whatever type its samples have', () => {
  // vertex 0 of samples 0 and 1, vertex 1 of sample 2 alone, vertex 2 of none, vertex 3 of samples 1 to 5
  const across = {
    first: Int32Array.of(0, 2, 0, 1),
    start: Int32Array.of(0, 2, 3, 3, 8),
    shares: Float64Array.of(0.25, 0.75, 1, 0.1, 0.2, 0.3, 0.2, 0.2),
  };
  const row = [40, 80, 100, 10, 20, 30];
  for (const samples of [Uint16Array.from(row), Float32Array.from(row), Int16Array.from(row), Float64Array.from(row)]) {
    const kernel = WholeGroundKernel.create(4, 2, across)!;
    kernel.weigh(samples, 0);
    kernel.add(1, 0.5);
    const { sums, weights } = kernel.all();
    const expected = [0.25 * 40 + 0.75 * 80, 100, 0, 0.1 * 80 + 0.2 * 100 + 0.3 * 10 + 0.2 * 20 + 0.2 * 30];
    expect([...sums.subarray(0, 4)]).toEqual([0, 0, 0, 0]);
    expect([...sums.subarray(4)].map((v, i) => v - expected[i]! / 2)).toEqual([0, 0, 0, expect.closeTo(0, 12)]);
    expect([...weights.subarray(4)]).toEqual([0.5, 0.5, 0, 0.5]);
  }
  // of a part from column 2 on only what is there counts
  const part = WholeGroundKernel.create(4, 1, across)!;
  part.weigh(Uint16Array.from(row.slice(2)), 2);
  part.add(0, 1);
  expect([...part.all().sums]).toEqual([0, 100, 0, expect.closeTo(33, 12)]);
  expect([...part.all().weights]).toEqual([0, 1, 0, expect.closeTo(0.9, 12)]);
});
