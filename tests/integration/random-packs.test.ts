/**
 * Random packs: as they were written none is red, and harmed once at random none is green, but for harms that change
 * nothing. `npm run random-packs -- 10000 [seed]` tries so many; the seed is printed.
 */
import { writeSync } from 'node:fs';
import fc from 'fast-check';
import { LevelGridError, MemoryFolder } from '@/core/base';
import type { PlanDocument } from '@/core/plan';
import { prove, type Proof } from '@/core/proof';
import { ENCODING_IDS } from '@/core/raster';
import type { Recipe } from '@/core/recipe';
import { run } from '@/core/run';
import { cases, countedOf, DEGREES, recipeOf, samplesOf } from '../helpers/random-recipe';

const PACKS = Number(process.env['RANDOM_PACKS'] ?? 120);
// the same packs every time, so that a change is what makes one red; the command draws others
const SEED = Number(process.env['RANDOM_SEED'] ?? 284_865);
/** Only the case that this leads to, as a failure prints it. */
const PATH = process.env['RANDOM_PATH'];
jest.setTimeout(60_000 + PACKS * 2000);

/** A harm and what is to be harmed, by numbers that are taken modulo what there is. */
const harms = fc.record({
  what: fc.constantFrom('code', 'row', 'column', 'rows', 'end', 'value', 'sentence', 'document', 'missing'),
  at: fc.nat(),
  by: fc.integer({ min: 1, max: 65535 }),
  page: fc.constantFrom('import.md', 'import.html'),
});
type Harm = typeof harms extends fc.Arbitrary<infer T> ? T : never;

const text = (folder: MemoryFolder, name: string): string => new TextDecoder().decode(folder.files.get(name));
const put = (folder: MemoryFolder, name: string, value: string): void => {
  folder.files.set(name, new TextEncoder().encode(value));
};

/** Floats are written in each format that holds them, as they are and packed. */
const packedAs = (n: number): Pick<Recipe['output'], 'format' | 'compression'> =>
  (
    [
      { format: 'raw' },
      { format: 'tiff' },
      { format: 'tiff', compression: 'deflate' },
      { format: 'exr' },
      { format: 'exr', compression: 'deflate' },
      { format: 'asc' },
    ] as const
  )[n % 6]!;

/** Harms a pack of one file, the samples themselves where it is a RAW; what changes nothing is told by false. */
function harm(folder: MemoryFolder, { what: wanted, at, by, page }: Harm): boolean {
  const document = JSON.parse(text(folder, 'import.json')) as PlanDocument;
  const { name, width, height, bitDepth, format } = document.files[0]!;
  const what = format !== 'raw' && ['code', 'row', 'column', 'rows'].includes(wanted) ? 'end' : wanted;
  const before = new Map([...folder.files].map(([n, bytes]) => [n, bytes.slice()]));
  const bytes = folder.files.get(name)!.slice();
  // of floats the last bits
  const codes = new { 8: Uint8Array, 16: Uint16Array, 32: Uint32Array }[format === 'raw' ? bitDepth : 8](bytes.buffer);
  const row = at % height;
  const column = at % width;
  switch (what) {
    case 'code':
      codes[at % codes.length]! ^= by;
      break;
    case 'row':
      codes.copyWithin(row * width, ((row + 1) % height) * width, ((row + 1) % height) * width + width);
      break;
    case 'column':
      for (let y = 0; y < height; y++) codes[y * width + column] = codes[y * width + ((column + 1) % width)]!;
      break;
    case 'rows':
      for (let y = 0; y < height >> 1; y++) {
        const upper = codes.slice(y * width, (y + 1) * width);
        codes.copyWithin(y * width, (height - 1 - y) * width, (height - y) * width);
        codes.set(upper, (height - 1 - y) * width);
      }
      break;
    case 'end':
      // of a text more than its last number, whose last digit may be one too many
      folder.files.set(name, bytes.subarray(0, bytes.length - (format === 'asc' ? 14 : 1) - (by % 9)));
      break;
    case 'value': {
      const rows = document.card.filter((r) => typeof r.value === 'number');
      const changed = rows[at % rows.length]!;
      changed.value = Number(changed.value) + (by % 7) + 1;
      put(folder, 'import.json', JSON.stringify(document));
      break;
    }
    case 'sentence': {
      // a digit of a page becomes another one
      const digits = [...text(folder, page).matchAll(/\d/g)].filter(
        ({ index }) =>
          !/data:image|<style/.test(
            text(folder, page)
              .slice(Math.max(0, index - 200_000), index)
              .split('\n')
              .at(-1)!,
          ),
      );
      const digit = digits[at % digits.length]!;
      const whole = text(folder, page);
      put(
        folder,
        page,
        `${whole.slice(0, digit.index)}${(Number(digit[0]) + 1 + (by % 8)) % 10}${whole.slice(digit.index + 1)}`,
      );
      break;
    }
    case 'document': {
      const spot = document.spots[at % document.spots.length]!;
      spot.elevation = (spot.elevation ?? 0) + by;
      put(folder, 'import.json', JSON.stringify(document));
      break;
    }
    case 'missing':
      folder.files.delete(['import.md', 'import.html', name][at % 3]!);
      break;
  }
  if (['code', 'row', 'column', 'rows'].includes(what)) folder.files.set(name, bytes);
  return [...before].some(([n, own]) => !folder.files.has(n) || Buffer.compare(own, folder.files.get(n)!) !== 0);
}

/** Where the first byte was changed, with what stands around it. */
function changedIn(before: ReadonlyMap<string, Uint8Array>, folder: MemoryFolder): string {
  for (const [name, own] of before) {
    const now = folder.files.get(name);
    const at = own.findIndex((byte, i) => now?.[i] !== byte);
    if (at < 0) continue;
    const around = (bytes: Uint8Array | undefined): string =>
      JSON.stringify(new TextDecoder('latin1').decode(bytes?.subarray(Math.max(0, at - 60), at + 40)));
    return `${name} at byte ${at}: ${around(own)} became ${around(now)}`;
  }
  return 'nothing';
}

const faultsOf = ({ checks }: Proof): string[] => checks.filter((c) => c.state === 'fault').map((c) => c.message);

test('random packs: unharmed none is red, harmed none is green', async () => {
  const seen = { packs: 0, refused: 0, faulty: 0, steps: 0, harmed: 0, nothing: 0 };
  await fc.assert(
    fc.asyncProperty(cases, harms, async (c, harmful) => {
      const samples = samplesOf(c.kind, c.width, c.height, c.seed, c.holes);
      const counted = await countedOf(c.kind, samples, c.width, c.metric ? { georeference: DEGREES } : {});
      // sides that one of both targets takes
      const odd = [c.across, c.down].some((n) => n === 33 || n === 65);
      const side = c.across > 50 ? (65 as const) : (33 as const);
      const sides = odd ? { across: side, down: side } : {};
      // most with a range that nothing is clipped by: what is harmed must have been whole
      const range = c.seed % 4 === 0 ? c.range : 'ground';
      const recipe = recipeOf({ ...c, ...sides, range, fill: c.fill ?? 3500 }, counted.facts.info);
      const encoding = odd ? 'u16' : ENCODING_IDS[(c.seed >> 2) % ENCODING_IDS.length]!;
      const floats = encoding === 'f32' && !odd;
      const written = {
        ...recipe,
        target: odd ? 'odd-grid' : encoding === 'u16' ? 'component-grid' : 'exchange',
        output: {
          ...recipe.output,
          ...(floats ? packedAs(c.seed >> 5) : { format: 'raw' as const }),
          encoding: floats ? ('f32' as const) : encoding,
          rows: odd ? ('south' as const) : ('north' as const),
        },
      };
      const folder = new MemoryFolder();
      let document: PlanDocument;
      try {
        document = await run(written, counted, folder);
      } catch (reason) {
        // a size that the target does not take, or voids that nobody fills: nothing was written
        if (!(reason instanceof LevelGridError)) throw reason;
        seen.refused++;
        return;
      }
      seen.packs++;
      if (recipe.steps.length > 0) seen.steps++;
      const proofOf = async (): Promise<Proof> =>
        (
          await prove({
            file: (n) => folder.source(n),
            reference: counted,
            others: [...folder.files.keys()],
            ignoreChecksums: true,
          })
        ).proof;
      const proof = await proofOf();
      if (document.checks.some((c) => c.state === 'fault')) {
        // what is wrong with the plan is said of the pack, and nothing else
        seen.faulty++;
        expect(proof.holds).toBe(false);
        expect(
          faultsOf(proof).filter((m) => !m.startsWith('Of the plan: ') && !m.includes('one in a hundred')),
        ).toEqual([]);
        return;
      }
      expect(faultsOf(proof)).toEqual([]);
      const before = new Map([...folder.files].map(([n, bytes]) => [n, bytes.slice()]));
      if (!harm(folder, harmful)) {
        seen.nothing++;
        return;
      }
      seen.harmed++;
      let holds = false;
      try {
        holds = (await proofOf()).holds;
      } catch (reason) {
        if (!(reason instanceof LevelGridError)) throw reason;
      }
      if (holds) throw new Error(`stays green: ${harmful.what}, ${changedIn(before, folder)}`);
    }),
    { numRuns: PACKS, seed: SEED, endOnFailure: true, ...(PATH === undefined ? {} : { path: PATH }) },
  );
  writeSync(2, `random packs: seed ${SEED}, ${JSON.stringify(seen)}\n`);
  expect(seen.packs).toBeGreaterThan(PACKS / 5);
  expect(seen.harmed).toBeGreaterThan(PACKS / 6);
});
