/** Ground that is mended: its samples after some steps, packs that are proved through them, and slips put into a step. */
import { MemoryFolder, memorySource, type ByteSource } from '@/core/base';
import { openEntering, planChain } from '@/core/chain';
import { operationOf, type ChangeTally, type Operation, type Stage, type StageRaster } from '@/core/operations';
import type { PlanDocument } from '@/core/plan';
import { prove, type Proof } from '@/core/proof';
import { memoryRaster, type RasterInfo } from '@/core/raster';
import type { Step } from '@/core/recipe';
import { run } from '@/core/run';
import { samplesOf } from './entering';
import { recipeWith } from './rasters';

export const SPACING = 2.5;
export const floats = (width: number, height: number, over: Partial<RasterInfo> = {}): RasterInfo => ({
  format: 'raw',
  width,
  height,
  channels: 1,
  bitDepth: 64,
  sampleType: 'float',
  byteOrder: 'little',
  warnings: [],
  ...over,
});
export const METRES = { heights: { as: 'elevations' }, low: undefined, high: undefined, spacing: SPACING } as const;

/** Heights in metres after some steps, bands as high as they come. */
export async function after(
  steps: readonly object[],
  width: number,
  heightAt: (x: number, y: number) => number,
  height: number,
  over: Partial<RasterInfo> = {},
) {
  const recipe = recipeWith({ source: METRES, steps, fit: { size: 22 }, target: 'odd-grid' });
  const info = floats(width, height, over);
  const data = Float64Array.from({ length: width * height }, (_, i) => heightAt(i % width, Math.floor(i / width)));
  const chain = planChain(recipe, info);
  if (chain.refusal) throw chain.refusal.error;
  const { shown } = openEntering(memoryRaster(info, data), chain);
  const found = await samplesOf(shown);
  const wide = shown.info.width;
  return { info: shown.info, found, at: (x: number, y: number) => found[y * wide + x]! };
}

// ground of metres as floats, wider than high, with voids, a flat sea and spikes
const [WIDE, HIGH] = [83, 61];
const fells = (x: number, y: number): number => {
  if ((x - 50) ** 2 + (y - 30) ** 2 < 40) return NaN;
  if (x < 9 + 4 * Math.sin(y / 7)) return 400;
  return 480 + 60 * Math.sin(x / 9) * Math.cos(y / 11) + ((x * 31 + y * 17) % 23 === 0 ? 45 : 0);
};
type Ground = typeof fells;
const source = (of: Ground): ByteSource =>
  memorySource(
    'fells.raw',
    new Uint8Array(Float32Array.from({ length: WIDE * HIGH }, (_, i) => of(i % WIDE, Math.floor(i / WIDE))).buffer),
  );
const raw = { width: WIDE, height: HIGH, type: 'f32', byteOrder: 'little', skip: 0 } as const;

/** Fells that are written through some steps, and what the proof says of the pack. */
export async function proved(
  steps: readonly object[],
  of: Ground = fells,
): Promise<{ proof: Proof; document: PlanDocument }> {
  const folder = new MemoryFolder();
  const recipe = recipeWith({
    source: { ...METRES, raw },
    steps,
    fit: { size: [57, 43], voids: 450, clamp: true },
  });
  const document = await run(recipe, source(of), folder);
  const { proof } = await prove({ file: (n) => folder.source(n), reference: source(of), ignoreChecksums: true });
  return { proof, document };
}
export const faults = ({ checks }: Proof): string[] =>
  checks.filter((c) => c.state === 'fault').map((c) => `${c.id}: ${c.message}`);

type Loose = Operation<Record<string, unknown>, unknown>;
const real = (step: object): Loose => operationOf(step as Step);

/** The pipeline does the step otherwise, in the run and in its proof. */
export function otherwise(step: object, change: (params: Record<string, unknown>) => object): void {
  const operation = real(step);
  const plan = operation.plan.bind(operation);
  jest
    .spyOn(operation, 'plan')
    .mockImplementation((stage, params, context) => plan(stage, change(params) as Record<string, unknown>, context));
}
/** Samples of the step change no more: it is left out, though said. */
export function skipped(step: object): void {
  const operation = real(step);
  jest.spyOn(operation, 'open').mockImplementation((input: StageRaster) => input);
}
/** What should be done first is done last. */
export function exchanged(a: object, b: object): void {
  const [one, two] = [real(a), real(b)];
  const [first, second] = [{ ...one }, { ...two }];
  const as = (operation: Loose, other: Loose, step: object): void => {
    jest
      .spyOn(operation, 'plan')
      .mockImplementation((stage: Stage, _p, context) => other.plan(stage, { ...step }, context));
    jest
      .spyOn(operation, 'open')
      .mockImplementation((input: StageRaster, resolved, stage: Stage, tally?: ChangeTally) =>
        other.open(input, resolved, stage, tally),
      );
  };
  as(one, second, b);
  as(two, first, a);
}
