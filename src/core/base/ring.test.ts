import fc from 'fast-check';
import { ByteRing } from './ring';

const pattern = (length: number): Uint8Array => Uint8Array.from({ length }, (_, i) => (i * 2654435761) >>> 24);

/** Reads to the end in steps, the sizes of which come round. */
async function drain(ring: ByteRing, steps: readonly number[]): Promise<Uint8Array> {
  const out: number[] = [];
  for (let turn = 0; ; turn++) {
    const into = new Uint8Array(steps[turn % steps.length]!);
    const n = await ring.read(into);
    out.push(...into.subarray(0, n));
    if (n < into.length) return Uint8Array.from(out);
  }
}

test('whatever is written in whatever pieces is read in whatever steps', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.integer({ min: 0, max: 200 }), { maxLength: 20 }),
      fc.array(fc.integer({ min: 1, max: 90 }), { minLength: 1, maxLength: 5 }),
      fc.constantFrom(1, 16, 64),
      async (pieces, steps, capacity) => {
        const all = pattern(pieces.reduce((s, n) => s + n, 0));
        const ring = ByteRing.create(capacity);
        // each side has a view of its own on the memory, as threads do
        const reading = drain(new ByteRing(ring.memory), steps);
        let at = 0;
        for (const n of pieces) {
          expect(await ring.write(all.subarray(at, at + n))).toBe(true);
          at += n;
        }
        ring.end();
        expect(await reading).toEqual(all);
      },
    ),
    { numRuns: 60 },
  );
});

test('positions go on past 2³²', async () => {
  const ring = ByteRing.create(16);
  // both sides as they stand after four gigabytes less five bytes
  new Int32Array(ring.memory).set([-5, -5]);
  const reading = drain(ring, [7]);
  await ring.write(pattern(40));
  ring.end();
  expect(await reading).toEqual(pattern(40));
});

test('a reader that waits learns of the end; one that comes late still gets what was written', async () => {
  const early = ByteRing.create(16);
  const waiting = early.read(new Uint8Array(4));
  early.end();
  expect(await waiting).toBe(0);
  const late = ByteRing.create(16);
  await late.write(pattern(9));
  late.end();
  expect(await drain(late, [100])).toEqual(pattern(9));
});

test('a writer that waits for room learns that nobody reads any more', async () => {
  const ring = ByteRing.create(16);
  const writing = ring.write(pattern(100));
  ring.close();
  expect(await writing).toBe(false);
  expect(await ring.write(pattern(1))).toBe(false);
  // an end behind it changes nothing
  ring.end();
  expect(await ring.write(pattern(1))).toBe(false);
});
