import { createHash } from 'node:crypto';
import {
  asLevelGridError,
  formatLength,
  formatNumber,
  formatShort,
  LevelGridError,
  MemoryFolder,
  plainSha256,
  portableSha256,
  roundTo,
} from '.';

describe('numbers as people read them', () => {
  test('groups of three and fixed decimals', () => {
    expect(formatNumber(41500.633, 2)).toBe('41 500.63');
    expect(formatNumber(-1234567, 0)).toBe('−1 234 567');
    expect(formatNumber(-0.001, 2)).toBe('0.00');
  });
  test('short forms drop trailing zeros', () => {
    expect(formatShort(2.5)).toBe('2.5');
    expect(formatShort(1536)).toBe('1 536');
    expect(formatShort(14.880952380952, 6)).toBe('14.880952');
  });
  test('lengths take the unit that reads best', () => {
    expect(formatLength(0.012665)).toBe('12.7 mm');
    expect(formatLength(3837.5)).toBe('3.838 km');
    expect(formatLength(0.000178)).toBe('178 µm');
  });
  test('rounding keeps the sign and never gives minus zero', () => {
    expect(roundTo(162.11184, 4)).toBe(162.1118);
    expect(roundTo(-2.5, 0)).toBe(-3);
    expect(Object.is(roundTo(-0.001, 2), 0)).toBe(true);
  });
});

describe('errors', () => {
  test('survive the way across a boundary with every field', () => {
    const error = new LevelGridError('checksum', { file: 'a.png', found: 'x', expected: 'y', remedy: 'z.' });
    const back = LevelGridError.fromRecord(JSON.parse(JSON.stringify(error.toRecord())));
    expect(back.toRecord()).toEqual(error.toRecord());
    expect(back.message).toBe('a.png: found x; expected y. z.');
  });
  test('a foreign error never shows the engine’s words', () => {
    const error = asLevelGridError(new TypeError('x is not a function'), 'reading', 'b.png');
    expect(error.code).toBe('internal');
    expect(error.message).not.toMatch(/TypeError|function/);
    expect(error.file).toBe('b.png');
  });
});

test.each([portableSha256, plainSha256])('the portable SHA-256 agrees with Node’s', async (start) => {
  const bytes = Uint8Array.from({ length: 5000 }, (_, i) => (i * 31) & 255);
  const hash = await start();
  hash.update(bytes.subarray(0, 1234));
  hash.update(bytes.subarray(1234));
  expect(hash.digest()).toBe(createHash('sha256').update(bytes).digest('hex'));
});

test('a folder in memory shows nothing before it is committed, and forgets what was aborted', async () => {
  const folder = new MemoryFolder();
  const sink = await folder.open('a');
  await sink.write(Uint8Array.of(1, 2));
  await sink.close();
  expect(folder.files.size).toBe(0);
  await folder.commit();
  expect([...folder.files.get('a')!]).toEqual([1, 2]);
  const other = await folder.open('a');
  await other.write(Uint8Array.of(9));
  await other.close();
  await folder.abort();
  await folder.commit();
  expect([...folder.files.get('a')!]).toEqual([1, 2]);
});
