/** Archives by another program's writer: what is bent, locked, doubled or linked is told by name, and never taken for heights. */
import fc from 'fast-check';
import { zipSync } from 'fflate';
import { LevelGridError, memorySource } from '../base';
import { filesOfZip, heightsOfZip, zipOf } from '.';

const material = (n: number, seed: number): Uint8Array =>
  Uint8Array.from({ length: n }, (_, i) => (i * seed + (i >> 3) * (i % 7)) & 255);
const NORTH = material(1700, 31);
const SOUTH = material(903, 57);

const archive = (): Uint8Array<ArrayBuffer> =>
  Uint8Array.from(zipSync({ 'fells/north.raw': [NORTH, { level: 6 }], 'fells/south.raw': [SOUTH, { level: 0 }] }));

const refusal = (work: () => unknown): LevelGridError => {
  try {
    work();
  } catch (reason) {
    if (reason instanceof LevelGridError) return reason;
    throw reason;
  }
  throw new Error('it was taken');
};
/** Where a mark of four bytes stands, the last one of it. */
function lastAt(bytes: Uint8Array, mark: number): number {
  const view = new DataView(bytes.buffer);
  for (let at = bytes.length - 4; at >= 0; at--) if (view.getUint32(at, true) === mark) return at;
  throw new Error('no such mark');
}
const LISTED = 0x02014b50;

test('sound archives are taken, packed or not', () => {
  const { files } = heightsOfZip(archive(), 'fells.zip');
  expect([...files.keys()]).toEqual(['fells/north.raw', 'fells/south.raw']);
  expect(files.get('fells/north.raw')).toEqual(NORTH);
  expect(files.get('fells/south.raw')).toEqual(SOUTH);
});

test('an archive of our own is taken', async () => {
  const own = await new Response(zipOf([memorySource('south.raw', SOUTH)])).arrayBuffer();
  expect(heightsOfZip(new Uint8Array(own), 'own.zip').files.get('south.raw')).toEqual(SOUTH);
});

test('a byte that is bent anywhere changes no height without a word', () => {
  const whole = archive();
  let refused = 0;
  let same = 0;
  fc.assert(
    fc.property(fc.nat(whole.length - 1), fc.integer({ min: 1, max: 255 }), (at, by) => {
      const bent = whole.slice();
      bent[at]! ^= by;
      try {
        const { files } = heightsOfZip(bent, 'fells.zip');
        // a name may be another one, or no longer that of heights; what is read is what was packed
        for (const [, data] of files) expect([NORTH, SOUTH].some((own) => Buffer.compare(own, data) === 0)).toBe(true);
        same++;
      } catch (reason) {
        expect(reason).toBeInstanceOf(LevelGridError);
        refused++;
      }
    }),
    { numRuns: 3000 },
  );
  expect(refused).toBeGreaterThan(1500);
  expect(same).toBeGreaterThan(20);
});

test('a byte of a file that is not packed is missed by its checksum, which is told with its name', () => {
  const bent = archive();
  const at = Buffer.from(bent).indexOf(Buffer.from(SOUTH.subarray(100, 120)));
  bent[at + 5]! ^= 4;
  expect(refusal(() => heightsOfZip(bent, 'fells.zip')).message).toMatch(
    /fells\.zip: .*"fells\/south\.raw", whose checksum differs/,
  );
});

test.each<[string, (view: DataView, listed: number) => void, RegExp]>([
  ['locked', (view, at) => view.setUint16(at + 8, 1, true), /"fells\/south\.raw", which is locked by a password/],
  [
    'a link',
    (view, at) => {
      view.setUint8(at + 5, 3);
      view.setUint32(at + 38, 0xa1ff0000, true);
    },
    /"fells\/south\.raw", which is a link to another file/,
  ],
  [
    'of another size by itself',
    (view, at) => view.setUint32(at + 24, SOUTH.length - 3, true),
    /"fells\/south\.raw", whose size is 903 by itself and 900 by the list/,
  ],
  [
    'packed in an unknown way',
    (view, at) => {
      view.setUint16(at + 10, 12, true);
      view.setUint16(view.getUint32(at + 42, true) + 8, 12, true);
    },
    /"fells\/south\.raw", which is packed in a way that is not read \(number 12\)/,
  ],
])('an entry that is %s is refused by its name', (_, change, message) => {
  const bytes = archive();
  change(new DataView(bytes.buffer), lastAt(bytes, LISTED));
  expect(refusal(() => heightsOfZip(bytes, 'fells.zip')).message).toMatch(message);
});

test('a name that stands twice is refused: nobody knows which is meant', () => {
  const bytes = Uint8Array.from(zipSync({ 'fells/north.raw': NORTH, 'fells/sorth.raw': SOUTH }));
  for (let at = 0; at < bytes.length; at++)
    if (Buffer.from(bytes.subarray(at, at + 15)).toString('latin1') === 'fells/sorth.raw') {
      bytes[at + 6] = 'n'.charCodeAt(0);
    }
  expect(refusal(() => heightsOfZip(bytes, 'fells.zip')).message).toMatch(/"fells\/north\.raw" twice/);
});

test('bytes in front of an archive, and one without its end, are told', () => {
  const bytes = archive();
  const shifted = new Uint8Array(bytes.length + 11);
  shifted.set(bytes, 11);
  expect(refusal(() => heightsOfZip(shifted, 'fells.zip')).message).toMatch(/11 bytes in front of the archive/);
  expect(refusal(() => heightsOfZip(bytes.slice(0, -5), 'fells.zip')).message).toMatch(/a zip without its end/);
});

test('packs are checked in the same way', () => {
  const text = new TextEncoder().encode('{}');
  const bytes = Uint8Array.from(
    zipSync({
      'import.json': [text, { level: 0 }],
      'recipe.json': [text, { level: 0 }],
      'kettle.raw': [SOUTH, { level: 0 }],
    }),
  );
  expect(filesOfZip(bytes, 'kettle.zip').get('kettle.raw')).toEqual(SOUTH);
  bytes[Buffer.from(bytes).indexOf(Buffer.from(SOUTH.subarray(0, 30))) + 7]! ^= 1;
  expect(refusal(() => filesOfZip(bytes, 'kettle.zip')).message).toMatch(/"kettle\.raw", whose checksum differs/);
});
