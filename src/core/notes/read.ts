/** What a note in plain words says of the heights that it lies beside; each as it was found, in metres. */
export interface NoteFacts {
  /** Elevations of the lowest and the highest. */
  readonly low?: number;
  readonly high?: number;
  /** They are called those of black and white, or of codes: of the ends of what a file can hold. */
  readonly ends?: true;
  /** Metres from one code to the next. */
  readonly step?: number;
  /** Metres from sample to sample. */
  readonly spacing?: number;
  /** Heights were multiplied by so much. */
  readonly stretch?: number;
  /** The lines that say so, as they stand there. */
  readonly lines: readonly string[];
}

/** Longer notes are read to here. */
const MOST_TEXT = 2 ** 16;
const MOST_LINES = 400;
const LONGEST_LINE = 240;

const NUMBER = String.raw`[-−–+]?\d{1,3}(?:[ ,’'\u00a0\u202f]\d{3})+(?:\.\d+)?|[-−–+]?\d+(?:[.,]\d+)?`;
const UNIT = String.raw`(?:\s*(km|cm|mm|metres?|meters?|m|feet|foot|ft)\b)?`;
const METRES: Readonly<Record<string, number>> = { km: 1000, cm: 0.01, mm: 0.001, f: 0.3048 };

/** What follows a number that is one of something else. */
const OTHERS = String.raw`(?!\s*-?(?:tiles?|files?|px|pixels?|samples?|bits?|[KMG]i?B|%|dpi|[x×*]\s*\d))`;

/** Words between a name and its number: no other number, and not too many. */
const WORDS = String.raw`[^\d\n;|]{0,32}?`;

const LOW = String.raw`\b(?:lowest|minimum|min|black|bottom)\b`;
const HIGH = String.raw`\b(?:highest|maximum|max|white|top)\b`;
const HEIGHT = /\b(?:elevations?|heights?|altitudes?|relief|ground|terrain|point|black|white|lowest|highest)\b/i;
const SIGN = /^[-−–]/;

const one = (before: string, after = ''): RegExp =>
  new RegExp(String.raw`${before}${WORDS}(${NUMBER})(?!\d|[.,]\d)${OTHERS}${UNIT}${after}`, 'i');

const LOW_IS = one(LOW);
const HIGH_IS = one(HIGH);
const CODE_IS = new RegExp(
  String.raw`\b(?:code|value|grey|gray|level)\s*(\d+)\s*(?:is|=|:|→|->|means|stands for)\s*(${NUMBER})${UNIT}`,
  'gi',
);
const RANGE_IS = new RegExp(
  String.raw`\b(?:elevations?|heights?|altitudes?)\b[^\d\n]{0,32}?(${NUMBER})${UNIT}\s*(?:to|–|—|-|…|\.\.+|and)\s*(${NUMBER})(?!\d|[.,]\d)${OTHERS}${UNIT}`,
  'i',
);
const STEP_IS = new RegExp(String.raw`(${NUMBER})${UNIT}\s*(?:per|/|a)\s*(?:code|step|level|grey|gray)\b`, 'i');
const PER_SAMPLE = new RegExp(String.raw`(${NUMBER})${UNIT}\s*(?:per|/|a)\s*(?:pixel|px|sample|cell|texel)\b`, 'i');
const SPACING_IS = one(
  String.raw`\b(?:spacing|resolution|(?:pixel|cell|sample|grid)\s*(?:size|distance|width))\b`,
  String.raw`(?!\s*(?:arc|°|seconds?|degrees?))`,
);
const STRETCH_IS = new RegExp(
  String.raw`\b(?:exaggerat\w*|stretch\w*)\b[^\d\n]{0,32}?(${NUMBER})\s*(%)?|(${NUMBER})\s*(%|×|x|times)?\s*(?:vertical(?:ly)?\s*)?(?:exaggerat\w*|stretch\w*)`,
  'i',
);

/** A number as people write it: thousands in groups, a comma or a point before the fraction. */
function numberIn(text: string): number {
  const negative = SIGN.test(text);
  const digits = text.replace(/^[-−–+]/, '');
  const grouped = /^\d{1,3}(?:[ ,’'\u00a0\u202f]\d{3})+(?:\.\d+)?$/.test(digits);
  const value = Number(grouped ? digits.replace(/[ ,’'\u00a0\u202f]/g, '') : digits.replace(',', '.'));
  return negative ? -value : value;
}

function metres(number: string | undefined, unit: string | undefined): number | null {
  if (number === undefined) return null;
  const word = unit?.toLowerCase() ?? 'm';
  const value = numberIn(number) * (METRES[word] ?? (word.startsWith('f') ? METRES.f! : 1));
  return Number.isFinite(value) ? value : null;
}

interface Found {
  low?: number;
  high?: number;
  ends?: true;
  step?: number;
  spacing?: number;
  stretch?: number;
}

const within = (value: number | null, low: number, high: number): value is number =>
  value !== null && value >= low && value <= high;
const isElevation = (value: number | null): value is number => within(value, -12_000, 12_000);

/** What one line says of heights. */
function heightsIn(line: string): Found {
  const found: Found = {};
  const codes = [...line.matchAll(CODE_IS)];
  for (const [, code, number, unit] of codes) {
    const value = metres(number, unit);
    if (!isElevation(value)) continue;
    if (Number(code) === 0) found.low = value;
    else if (['255', '65535', '4294967295'].includes(code!)) found.high = value;
    found.ends = true;
  }
  if (codes.length > 0) return found;
  const range = RANGE_IS.exec(line);
  if (range) {
    // "1310 to 1874 m": the unit of both stands behind the second
    const [low, high] = [metres(range[1], range[2] ?? range[4]), metres(range[3], range[4])];
    const years =
      range[2] === undefined && range[4] === undefined && [range[1], range[3]].every((n) => /^(19|20)\d\d$/.test(n!));
    if (!years && isElevation(low) && isElevation(high) && low < high) return { low, high };
  }
  if (!HEIGHT.test(line)) return found;
  const [low, high] = [LOW_IS.exec(line), HIGH_IS.exec(line)];
  const lowest = low && metres(low[1], low[2] ?? high?.[2]);
  const highest = high && metres(high[1], high[2]);
  if (isElevation(lowest)) found.low = lowest;
  if (isElevation(highest)) found.high = highest;
  if (/\b(?:black|white)\b/i.test(line) && (found.low ?? found.high) !== undefined) found.ends = true;
  return found;
}

function stretchIn(line: string): number | null {
  const at = STRETCH_IS.exec(line);
  const number = at?.[1] ?? at?.[3];
  if (!at || number === undefined) return null;
  const value = numberIn(number) * ((at[2] ?? at[4]) === '%' ? 0.01 : 1);
  return within(value, 0.01, 100) ? value : null;
}

function foundIn(line: string): Found {
  const found = heightsIn(line);
  const step = STEP_IS.exec(line);
  const perCode = step && metres(step[1], step[2]);
  if (within(perCode, 1e-6, 1000)) found.step = perCode;
  const per = PER_SAMPLE.exec(line) ?? SPACING_IS.exec(line);
  const spacing = per && !STEP_IS.test(line) ? metres(per[1], per[2]) : null;
  if (within(spacing, 1e-3, 1e5)) found.spacing = spacing;
  const stretch = stretchIn(line);
  if (stretch !== null) found.stretch = stretch;
  return found;
}

/**
 * The numbers of a note in plain English, line by line; of two that say the same the first counts. Null where it says
 * nothing of heights or spacing. What it says is what somebody wrote: whoever shows it shows the lines too.
 */
export function readNote(text: string): NoteFacts | null {
  const all: Found = {};
  const lines: string[] = [];
  for (const raw of text
    .slice(0, MOST_TEXT)
    .split(/\r\n|\n|\r/)
    .slice(0, MOST_LINES)) {
    const line = raw.replace(/\s+/g, ' ').trim().slice(0, LONGEST_LINE);
    const found = foundIn(line);
    const fresh = Object.entries(found).filter(([key]) => all[key as keyof Found] === undefined);
    if (fresh.length === 0) continue;
    Object.assign(all, Object.fromEntries(fresh));
    lines.push(line);
  }
  // a low end above the high one is no range, and half a range says nothing
  if (all.low === undefined || all.high === undefined || all.low >= all.high) {
    delete all.high;
    if (all.step === undefined) delete all.low;
  }
  const { ends: _, ...said } = all;
  return Object.keys(said).length > 0 ? { ...all, lines } : null;
}
