import type { Chance } from './chance';

const STRANGE: readonly unknown[] = [
  null,
  true,
  false,
  0,
  -0,
  1,
  -1,
  0.5,
  1e-7,
  65535,
  65536,
  65537,
  2 ** 31,
  -(2 ** 31) - 1,
  2 ** 53,
  1e21,
  1e300,
  -1e300,
  5e-324,
  '',
  ' ',
  '0',
  '1e9',
  'toString',
  '__proto__',
  'constructor',
  '\u001b[2J',
  '\u202etarn',
  '\ud800',
  '{name}-{row:9}',
  '../over-there',
  'con',
  'x'.repeat(300),
  [],
  {},
  [[]],
  [1, 2, 3],
  { length: 3 },
];
const KEYS = ['__proto__', 'constructor', 'toString', 'length', '', 'version', 'low', 'tarn'];

/** A copy: what is bent later must not come back in another case. */
const strange = (chance: Chance): unknown => structuredClone(chance.one(STRANGE));

interface Place {
  readonly of: Record<string, unknown>;
  readonly key: string;
}

function places(value: unknown, out: Place[] = []): Place[] {
  if (typeof value !== 'object' || value === null) return out;
  for (const key of Object.keys(value)) {
    out.push({ of: value as Record<string, unknown>, key });
    places((value as Record<string, unknown>)[key], out);
  }
  return out;
}

/** A document with a few values changed, taken away, moved or added. The one given stays as it is. */
export function bent(document: unknown, chance: Chance): unknown {
  const copy = structuredClone(document);
  for (let n = chance.one([1, 1, 1, 2, 3]); n > 0; n--) {
    const all = places(copy);
    if (all.length === 0) return copy;
    const { of, key } = chance.one(all);
    const value = of[key];
    switch (chance.whole(0, 6)) {
      case 0:
        delete of[key];
        break;
      case 1:
        if (!Array.isArray(of)) of[chance.one(KEYS)] = strange(chance);
        break;
      case 2: {
        const other = chance.one(all);
        of[key] = structuredClone(other.of[other.key]);
        break;
      }
      case 3:
      case 4:
        of[key] =
          typeof value === 'number'
            ? chance.one([value + 1, value - 1, -value, value * 2, value / 3, value * 1.000001, value + 1e-9])
            : strange(chance);
        break;
      default:
        of[key] = strange(chance);
    }
  }
  return copy;
}

/** Text with a few signs changed, cut off, doubled or put in. */
export function torn(text: string, chance: Chance): string {
  let out = text;
  for (let n = chance.one([1, 1, 2, 4]); n > 0; n--) {
    const at = chance.whole(0, out.length);
    switch (chance.whole(0, 4)) {
      case 0:
        out = out.slice(0, at);
        break;
      case 1:
        out = out.slice(0, at) + out.slice(at + chance.whole(1, 9));
        break;
      case 2:
        out = out.slice(0, at) + out.slice(at, at + chance.whole(1, 40)) + out.slice(at);
        break;
      default:
        out =
          out.slice(0, at) +
          chance.one(['{', '}', '[', ']', '"', ',', ':', '-', '9', 'e', '\\', '\u0000', '\ufeff', 'NaN', '1e999']) +
          out.slice(at);
    }
  }
  return out;
}
