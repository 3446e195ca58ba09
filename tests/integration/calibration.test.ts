import sharp from 'sharp';
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import type { PlanDocument } from '@/core/plan';
import { straightShare, type Curve } from '@/core/raster';
import type * as Curves from '@/core/raster/curve';
import { prove, type Proof } from '@/core/proof';
import { run } from '@/core/run';
import { hills, pngSource, rawBytes, recipeWith } from '../helpers/rasters';

// whole packs are written and proved here: that takes a while on a busy machine
jest.setTimeout(60_000);

/*
 * What the numbers of a source stand for, from file to proof: codes of written packs against elevations worked out here
 * by hand, and the proof's own second reckoning against the first.
 */

/** A curve that the pipeline takes in the place of the one it should. */
let mockWrong: Curve | null = null;
jest.mock('@/core/raster/curve', () => {
  const right = jest.requireActual<typeof Curves>('@/core/raster/curve');
  const straightener: typeof right.straightener = (info, ends, curve) =>
    right.straightener(info, ends, mockWrong ?? curve);
  return { ...right, straightener };
});

const SIDE = 253;
const codes = hills(SIDE, SIDE);
const full = { range: 'pinned', low: 0, high: 6553.5 };

async function packed(source: ByteSource, parts: Parameters<typeof recipeWith>[0]) {
  const folder = new MemoryFolder();
  const recipe = recipeWith({ fit: { size: SIDE }, height: full, ...parts });
  const document = await run(recipe, source, folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
  return { document, proof, written: await codesIn(folder.files.get('kettle.png')!) };
}

/** Codes of a written PNG, by an independent reader. */
async function codesIn(bytes: Uint8Array): Promise<Uint16Array> {
  const raw = await sharp(bytes).toColourspace('grey16').raw({ depth: 'ushort' }).toBuffer();
  return new Uint16Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.byteLength));
}

const faults = (proof: Proof): string[] => proof.checks.filter((c) => c.state === 'fault').map((c) => c.id);

/** The written code of a true elevation on 0 to 6553.5 m: ten to the metre. */
const tenths = (elevation: number): number => Math.round(elevation * 10);

test.each([
  // low 1000 m, 0.05 m a code
  ['step', { as: 'step', step: 0.05, base: 1000 }, (v: number) => 1000 + 0.05 * v],
  ['step, stretched', { as: 'step', step: 0.05, base: 1000, stretch: 2.5 }, (v: number) => 1000 + 0.02 * v],
  ['step, cut off', { as: 'step', step: 0.05, base: 1000, truncated: true }, (v: number) => 1000.025 + 0.05 * v],
  ['ends, stretched', { as: 'ends', low: 500, high: 4500, stretch: 1.6 }, (v: number) => 500 + (2500 * v) / 65535],
  ['centimetres', { as: 'elevations', unit: 'centimetre' }, (v: number) => v / 100],
  ['feet, stretched', { as: 'elevations', unit: 'foot', stretch: 4 }, (v: number) => (v * 0.3048) / 4],
])('heights given as %s', async (_, heights, elevation) => {
  const { proof, written } = await packed(await pngSource(codes, SIDE), { source: { heights } });
  expect(faults(proof)).toEqual([]);
  expect(proof.holds).toBe(true);
  let off = 0;
  codes.forEach((v, i) => {
    // either neighbour is right at the middle between two
    if (Math.abs(written[i]! - 10 * elevation(v)) > 0.501) off++;
  });
  expect(off).toBe(0);
  expect(written[12345]).toBe(tenths(elevation(codes[12345]!)));
});

describe('a display curve is undone', () => {
  /** By the definition of the curve, the other way round. */
  const shown = (straight: number, curve: Curve): number =>
    curve === 'srgb'
      ? straight <= 0.0031308
        ? straight * 12.92
        : 1.055 * straight ** (1 / 2.4) - 0.055
      : straight ** (1 / curve);

  test('by the values that its definition gives', () => {
    // IEC 61966-2-1: half grey on the screen is 21.4 % of the light
    expect(straightShare(0.5, 'srgb')).toBeCloseTo(0.214041, 6);
    expect(straightShare(0.04045, 'srgb')).toBeCloseTo(0.0031308, 7);
    expect(straightShare(0.5, 2)).toBe(0.25);
    expect(straightShare(-0.5, 2)).toBe(-0.25);
    for (const end of [0, 1])
      for (const curve of ['srgb', 2.2, 0.5] as const) expect(straightShare(end, curve)).toBe(end);
  });

  test.each(['srgb', 2.2, 0.6] as const)('%s: the ground comes out as it went in', async (curve) => {
    const bent = Uint16Array.from(codes, (v) => Math.round(65535 * shown(v / 65535, curve)));
    const { proof, written, document } = await packed(await pngSource(bent, SIDE), {
      source: { low: 0, high: 6553.5, curve },
    });
    expect(faults(proof)).toEqual([]);
    expect(document.checks.find((c) => c.id === 'source-curve')?.state).toBe('note');
    // what rounding lost near the steep end of the curve can't come back
    let worst = 0;
    codes.forEach((v, i) => {
      if (v > 6000) worst = Math.max(worst, Math.abs(written[i]! - v));
    });
    expect(worst).toBeLessThanOrEqual(2);
  });

  test('headerless floats and whole numbers of 32 bits too', async () => {
    const floats = Float32Array.from(codes, (v) => (v / 65535) ** 0.5);
    const raw = { width: SIDE, height: SIDE, type: 'f32', byteOrder: 'little', skip: 0 };
    const file = memorySource('tarn.r32', new Uint8Array(floats.buffer));
    const { proof, written } = await packed(file, { source: { low: 0, high: 6553.5, curve: 2, raw } });
    expect(faults(proof)).toEqual([]);
    expect(codes.reduce((most, v, i) => Math.max(most, Math.abs(written[i]! - v)), 0)).toBeLessThanOrEqual(1);
    const big = memorySource('tarn.raw', rawBytes(codes, 'big'));
    const shorts = { ...raw, type: 'u16', byteOrder: 'big' };
    const again = await packed(big, { source: { low: 0, high: 6553.5, curve: 1, raw: shorts } });
    expect(faults(again.proof)).toEqual([]);
    expect([...again.written]).toEqual([...codes]);
  });

  test('a slip in undoing it is found by the proof', async () => {
    const source = await pngSource(codes, SIDE);
    const folder = new MemoryFolder();
    const recipe = recipeWith({ fit: { size: SIDE }, height: full, source: { low: 0, high: 6553.5, curve: 'srgb' } });
    mockWrong = 2.2;
    try {
      await run(recipe, source, folder);
      const { proof } = await prove({ file: (n) => folder.source(n), reference: source });
      expect(proof.holds).toBe(false);
      // the pipeline agrees with itself
      expect(faults(proof)).toContain('codes');
      expect(faults(proof)).not.toContain('samples');
    } finally {
      mockWrong = null;
    }
  });
});

test('exaggeration changes what codes stand for, and not one code', async () => {
  // bytes on other sizes: many heights lie just in the middle of two codes
  const bytes = Uint16Array.from(hills(97, 61, 5), (c) => (c >> 8) * 257);
  const source = await pngSource(bytes, 97);
  const codesOf = async (parts: object): Promise<{ codes: Uint8Array; document: PlanDocument }> => {
    const folder = new MemoryFolder();
    const recipe = recipeWith({
      fit: { size: [190, 127], filter: 'bilinear' },
      output: { format: 'raw' },
      height: { range: 'source', ...parts },
    });
    const document = await run(recipe, source, folder);
    return { codes: folder.files.get(document.files[0]!.name)!, document };
  };
  for (const height of [{}, { strategy: 'headroom', below: 7, above: 12 }, { range: 'ground' }]) {
    const plain = await codesOf(height);
    for (const exaggeration of [2.2, 0.37, 3]) {
      const grown = await codesOf({ ...height, exaggeration });
      expect(Buffer.compare(grown.codes, plain.codes)).toBe(0);
      const [a, b] = [plain, grown].map(({ document: { height: h } }) => h.high - h.low);
      expect(b! / a!).toBeCloseTo(exaggeration, 9);
    }
  }
});
