import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { MemoryFolder, type ByteSource } from '../../src/core/base';
import { openHeightFile } from '../../src/core/formats';
import { prove } from '../../src/core/proof';
import { memoryRaster, heightsOf, resample, type OpenRaster } from '../../src/core/raster';
import { parseRecipe } from '../../src/core/recipe';
import { run } from '../../src/core/run';
import { proposedSquares, squared } from '../../src/core/squares';
import { fileSource, nodeSha256 } from '../../src/io/node';
import { writeExr } from '../helpers/write-exr';
import { terrainCodes } from './material';

/** A job beside another one that it is measured by. */
export interface OtherRow {
  readonly job: string;
  readonly ours: number;
  readonly beside: string;
  readonly theirs: number;
  /** Of the times of each turn. */
  readonly ratio: number;
}

const TURNS = 5;
const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;

async function beside(
  job: string,
  ours: () => Promise<unknown>,
  what: string,
  theirs: () => Promise<unknown>,
): Promise<OtherRow> {
  const a: number[] = [];
  const b: number[] = [];
  const time = async (work: () => Promise<unknown>): Promise<number> => {
    const start = performance.now();
    await work();
    return performance.now() - start;
  };
  for (let i = 0; i <= TURNS; i++) {
    const [x, y] = [await time(ours), await time(theirs)];
    // the first turn warms both up
    if (i === 0) continue;
    a.push(x);
    b.push(y);
  }
  return { job, ours: median(a), beside: what, theirs: median(b), ratio: median(a.map((v, i) => v / b[i]!)) };
}

async function drain(raster: Pick<OpenRaster, 'bands'>): Promise<number> {
  let samples = 0;
  for await (const { data } of raster.bands()) samples += data.length;
  return samples;
}

/** Formats and steps that no other program here does: against plain reading, or the same work on 16-bit codes. */
export async function benchOthers(): Promise<OtherRow[]> {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-bench-'));
  const at = (name: string): string => path.join(folder, name);
  const rows: OtherRow[] = [];
  try {
    const side = 2033;
    const codes = terrainCodes(side);
    const metres = Float32Array.from(codes, (c) => 1310 + (c / 65535) * 830);
    // what packs PIZ for tests takes its time
    for (const [compression, sides] of [
      ['ZIP', side],
      ['PIZ', 505],
    ] as const) {
      const name = at(`${compression}.exr`);
      const part = { width: sides, height: sides, channels: [{ name: 'Y', type: 'float' as const }], compression };
      writeFileSync(name, writeExr([[part, (_, x, y) => metres[y * side + x]!]]));
      rows.push(
        await beside(
          `decode EXR (float, ${compression}) ${sides}²`,
          async () => drain(await openHeightFile(await fileSource(name))),
          'plain reading of the same bytes',
          () => readFile(name),
        ),
      );
    }
    rows.push(...(await floats(at, codes, metres, side)));
    rows.push(await degrees());
    return rows;
  } finally {
    rmSync(folder, { recursive: true });
  }
}

/** The same ground as floats and as codes. */
async function floats(
  at: (name: string) => string,
  codes: Uint16Array,
  metres: Float32Array,
  side: number,
): Promise<OtherRow[]> {
  writeFileSync(at('f.raw'), new Uint8Array(metres.buffer));
  writeFileSync(at('c.raw'), new Uint8Array(codes.buffer));
  const recipe = (type: 'f32' | 'u16') =>
    parseRecipe({
      version: 3,
      name: 'b',
      source: {
        heights: type === 'f32' ? { as: 'elevations' } : { as: 'ends', low: 1310, high: 2140 },
        spacing: 1,
        raw: { width: side, height: side, type, byteOrder: 'little' },
      },
      target: 'odd-grid',
      fit: { size: 2049 },
      height: { range: 'ground' },
      output: { format: 'raw' },
    });
  const source = (type: 'f32' | 'u16'): Promise<ByteSource> => fileSource(at(type === 'f32' ? 'f.raw' : 'c.raw'));
  const packs = new Map<string, MemoryFolder>();
  const pack = async (type: 'f32' | 'u16'): Promise<void> => {
    const folder = new MemoryFolder();
    await run(recipe(type), await source(type), folder, { hasher: nodeSha256 });
    packs.set(type, folder);
  };
  const proof = async (type: 'f32' | 'u16'): Promise<void> => {
    const folder = packs.get(type)!;
    const { proof: found } = await prove({
      file: (n) => folder.source(n),
      reference: await source(type),
      hasher: nodeSha256,
    });
    if (!found.holds) throw new Error('a pack that does not hold');
  };
  return [
    await beside(
      `run from floats ${side}² → 2049²`,
      () => pack('f32'),
      'the same from 16-bit codes',
      () => pack('u16'),
    ),
    await beside(
      'its proof',
      () => proof('f32'),
      'the same of 16-bit codes',
      () => proof('u16'),
    ),
  ];
}

/** A block of a degree as square metres. */
async function degrees(): Promise<OtherRow> {
  const side = 3601;
  const codes = terrainCodes(2033);
  const samples = Float32Array.from({ length: side * side }, (_, i) => {
    const [x, y] = [Math.floor((i % side) / 1.7713), Math.floor(i / side / 1.7713)];
    return codes[y * 2033 + x]!;
  });
  const raster = memoryRaster(
    {
      format: 'hgt',
      width: side,
      height: side,
      channels: 1,
      bitDepth: 32,
      sampleType: 'float',
      byteOrder: null,
      georeference: { x: 80, y: -47, dx: 1 / 3600, dy: 1 / 3600, metres: null, degrees: true, crs: 'EPSG:4326' },
      warnings: [],
    },
    samples,
  );
  const squares = squared(raster, proposedSquares(raster.info)!);
  const { width, height } = squares.info;
  return beside(
    `${side}² in degrees → ${width} × ${height} square metres`,
    () => drain(squares),
    `resampling it to as many (Lanczos-3)`,
    async () => {
      const to = { width, height, filter: 'lanczos3', clamp: null, voids: false } as const;
      for await (const band of resample(heightsOf(raster, 0), to).bands())
        if (band.rows === 0) throw new Error('empty');
    },
  );
}
