import { decoderFor } from '@/core/proof';
import { BUILT_IN_TARGETS } from '@/core/targets';
import vectors from './decoding.json';

interface Vector {
  typed: Record<string, number>;
  heights: number[][];
  extentX: number[][];
  extentY: number[][];
  vertices: (number | null)[];
  /** 16 bits where none is said. */
  encoding?: 'u8' | 'f32' | 'f32-share';
}

const { about: _about, ...TARGETS } = vectors;

test('there are vectors for every target', () => {
  expect(Object.keys(TARGETS).sort()).toEqual(BUILT_IN_TARGETS.map((t) => t.id).sort());
});

describe.each(Object.keys(TARGETS) as (keyof typeof TARGETS)[])('what %s makes of codes and typed values', (target) => {
  test.each(TARGETS[target] as unknown as Vector[])(
    '%#',
    ({ encoding, typed, heights, extentX, extentY, vertices }) => {
      const output = { format: 'raw', encoding, byteOrder: 'little', rows: 'north' } as const;
      const decoder = decoderFor({ target, output }, new Map(Object.entries(typed)));
      for (const [code, metres] of heights) expect(decoder.heightOf(code!)).toBeCloseTo(metres!, 6);
      for (const [n, metres] of extentX) expect(decoder.extentX(n!)).toBeCloseTo(metres!, 6);
      for (const [n, metres] of extentY) expect(decoder.extentY(n!)).toBeCloseTo(metres!, 6);
      expect([decoder.verticesX(), decoder.verticesY()]).toEqual(vertices);
    },
  );
});

test('tiles lie where their window says, for both counts of rows', () => {
  // on paper: 3 × 3 tiles of 505 with shared edges, one component = 63 quads, 8 components a tile
  const places = [
    [0, 0],
    [504, 0],
    [1008, 0],
    [0, 504],
    [504, 504],
    [1008, 504],
    [0, 1008],
    [504, 1008],
    [1008, 1008],
  ];
  const names = { north: ['r00c00', 'r00c01', 'r00c02', 'r01c00'], south: ['r02c00', 'r02c01', 'r02c02', 'r01c00'] };
  for (const rows of ['north', 'south'] as const) {
    const { document } = plan(
      recipeWith({ name: 'k', fit: { size: 1513 }, split: { across: 3, down: 3, rows } }),
      FACTS,
      null,
    );
    expect(document.files.map((f) => [f.window.x, f.window.y])).toEqual(places);
    expect(document.files.slice(0, 4).map((f) => f.name)).toEqual(names[rows].map((n) => `k-${n}.png`));
  }
});

import { plan, type SourceFacts } from '@/core/plan';
import { recipeWith } from '../helpers/rasters';

const FACTS: SourceFacts = {
  file: 'k.png',
  info: {
    format: 'png',
    width: 1536,
    height: 1536,
    channels: 1,
    bitDepth: 16,
    sampleType: 'uint',
    byteOrder: null,
    warnings: [],
  },
  warnings: [],
  stats: { samples: 1536 * 1536, voids: 0, min: 0, max: 65535, mean: 30000, distinctCodes: 60000, codeStep: 1 },
};
