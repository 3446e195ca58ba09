/**
 * Feeds what reads files and documents with bent input: no hang, no crash, no foreign error. Cases follow from their
 * seed and number alone. Called by tools/fuzz.mjs, which watches over it: what is being read is told before it is read.
 */
import { chanceOf } from './chance';
import type { Target } from './target';
import { formats } from './target-formats';
import { packDocuments } from './target-pack';
import { png } from './target-png';
import { headerless } from './target-raw';
import { recipe } from './target-recipe';

const TARGETS: Readonly<Record<string, Target<unknown>>> = {
  png,
  raw: headerless,
  formats,
  recipe,
  pack: packDocuments,
};

const [name = '', seedText = '1', fromText = '0', toText = '1', secondsText = '0'] = process.argv.slice(2);
const target = TARGETS[name];
if (!target) throw new Error(`"${name}" is no target: ${Object.keys(TARGETS).join(', ')}`);
const [seed, from, to, seconds] = [seedText, fromText, toText, secondsText].map(Number) as [
  number,
  number,
  number,
  number,
];

const counts: Record<string, number> = {};
const count = (what: string): void => {
  counts[what] = (counts[what] ?? 0) + 1;
};
const faults: { index: number; fault: string }[] = [];
const begun = Date.now();
let slowest = 0;
let index = from;
let told = 0;
for (; index < to && (seconds === 0 || Date.now() - begun < seconds * 1000) && faults.length < 5; index++) {
  const now = Date.now();
  if (now - told > 500) {
    told = now;
    process.send?.({ at: index });
  }
  try {
    count(await target.check(target.make(chanceOf(seed, name, index)), count));
  } catch (reason) {
    faults.push({ index, fault: reason instanceof Error ? (reason.stack ?? reason.message) : String(reason) });
  }
  slowest = Math.max(slowest, Date.now() - now);
}
process.send?.({ done: index - from, counts, faults, slowest });
