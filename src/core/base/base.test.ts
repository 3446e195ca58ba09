import { createHash } from 'node:crypto';
import {
  asLevelGridError,
  formatLength,
  formatNumber,
  formatShort,
  hiddenSign,
  LevelGridError,
  manyLines,
  MemoryFolder,
  oneLine,
  parseJson,
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
  test('it has a number that is the same for the same fault, and keeps what it came from', () => {
    const numbered = (message: string, doing = 'reading') => {
      const error = asLevelGridError(new RangeError(message), doing, 'b.png');
      return /report fault ([0-9A-F]{8}) /.exec(error.remedy)?.[1];
    };
    expect(numbered('offset 17 is out of bounds')).toBe(numbered('offset 4096 is out of bounds'));
    expect(numbered('offset 17 is out of bounds')).not.toBe(numbered('length 17 is out of bounds'));
    expect(numbered('offset 17 is out of bounds')).not.toBe(numbered('offset 17 is out of bounds', 'writing'));
    const cause = new RangeError('offset 17 is out of bounds');
    const error = asLevelGridError(cause, 'reading');
    expect(error.cause).toBe(cause);
    // told of a file, or across a boundary, it is still known
    for (const told of [error.inFile('c.png'), LevelGridError.fromRecord(structuredClone(error.toRecord()))])
      expect(told.details).toContain('RangeError: offset 17 is out of bounds');
    expect(error.inFile('c.png').cause).toBe(cause);
    expect(new LevelGridError('busy', { found: 'a', expected: 'b', remedy: 'c' }).toRecord()).not.toHaveProperty(
      'details',
    );
    expect(asLevelGridError('x'.repeat(9000), 'reading').details).toHaveLength(4000);
  });
});

describe('text from outside', () => {
  test('what steers a terminal, turns text round or shows nothing is written out', () => {
    expect(oneLine('a\u001b[2Jb\nc\u009bd')).toBe('a\\u001b[2Jb\\u000ac\\u009bd');
    expect(manyLines('a\u001b[2Jb\nc\r\u202ed')).toBe('a\\u001b[2Jb\nc\\u000d\\u202ed');
    expect(oneLine('Kettle Tarn · 2½ m ⧄ fells')).toBe('Kettle Tarn · 2½ m ⧄ fells');
    // inside JSON it stays the same value
    const value = { name: 'a\u001b\u009b\u202e\u007fb' };
    expect(JSON.parse(oneLine(JSON.stringify(value)))).toEqual(value);
    expect([hiddenSign('tarn'), hiddenSign('ta\u200brn')]).toEqual([null, '\u200b']);
  });
});

describe('JSON from outside', () => {
  const kind = { words: 'recipe', code: 'recipe-syntax', limits: { length: 100, depth: 3 }, remedy: 'r' } as const;
  const found = (text: string): string => {
    try {
      parseJson(text, kind, 'k.json');
      return '';
    } catch (reason) {
      const { code, file, found: f, cause } = reason as LevelGridError;
      expect([code, file]).toEqual(['recipe-syntax', 'k.json']);
      return `${f}${cause === undefined ? '' : ', with its cause'}`;
    }
  };
  test('is refused where it is too long or too deep, before anything is built', () => {
    expect(found(`"${'x'.repeat(98)}"`)).toBe('');
    expect(found(`"${'x'.repeat(99)}"`)).toBe('a recipe of 101 B');
    expect(found('{"a":[{}]}')).toBe('');
    expect(found('{"a":[[[]]]}')).toBe('a recipe whose lists lie more than 3 deep in one another');
    // signs inside of strings are no lists
    expect(found('{"a":"[[[[[\\"[[[[["}')).toBe('');
    expect(found('[[]],[[]],[[]]')).toMatch(/^text that is not JSON/);
    expect(found('{"a":"[[')).toBe('text that is not JSON, with its cause');
    expect(found('{"a":NaN}')).toMatch(/^NaN or Infinity/);
    expect(parseJson('\ufeff{"a":1}', kind, null)).toEqual({ a: 1 });
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
