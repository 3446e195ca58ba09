/** Meshes: read from every format, baked from above, and refused where they are broken. */
import { memorySource } from '../../base';
import { openHeightFile } from '../registry';
import { faultOf } from '../../../../tests/helpers/rasters';
import { glbOf, groundMesh, joined, objOf, plyOf, stlOf, type TestMesh } from '../../../../tests/helpers/write-mesh';

const height = (x: number, y: number): number => 1310 + 3 * x + 0.5 * y * y + (((x * 7 + y * 13) % 5) - 2) * 0.25;
/** 9 × 6 vertices, 2.5 m apart, away from zero. */
const ground = groundMesh(9, 6, 2.5, height, [100, 40]);

async function samplesOf(name: string, bytes: Uint8Array | string, asked = {}) {
  const data = typeof bytes === 'string' ? Buffer.from(bytes) : bytes;
  const raster = await openHeightFile(memorySource(name, data), undefined, asked);
  const samples: number[] = [];
  for await (const { data: band } of raster.bands()) for (const v of band) samples.push(Number(v));
  return { info: raster.info, samples };
}

const files: [string, () => Uint8Array | string][] = [
  ['arch.obj', () => objOf(ground, 'z')],
  ['arch.obj', () => objOf(ground, 'y')],
  ['arch.stl', () => stlOf(ground, true)],
  ['arch.stl', () => stlOf(ground, false)],
  ['arch.ply', () => plyOf(ground, 'ascii')],
  ['arch.ply', () => plyOf(ground, 'little', 'y')],
  ['arch.ply', () => plyOf(ground, 'big')],
];

describe('read and baked', () => {
  // as tall as it is wide, so that nothing is taken for up without being said
  test.each(files)('%s %#', async (name, bytes) => {
    const up = name === 'arch.obj' && String(bytes()).includes('v 100 1310') ? 'y' : 'z';
    const text = bytes();
    const isY = (name === 'arch.ply' && Buffer.from(text).toString('latin1').includes('binary_little')) || up === 'y';
    const { info, samples } = await samplesOf(name, text, { up: isY ? 'y' : 'z' });
    expect(info).toMatchObject({
      width: 9,
      height: 6,
      sampleType: 'float',
      georeference: { x: 100, y: 52.5, dx: 2.5 },
    });
    expect(info.mesh).toMatchObject({
      vertices: 54,
      triangles: 80,
      overhangs: 0,
      guessed: false,
      options: { spacing: 2.5, metres: 1 },
    });
    const { min, max } = info.mesh!.bounds;
    expect([min[0], min[1], max[0], max[1]]).toEqual([100, 40, 120, 52.5]);
    // rows from the north
    for (let y = 0; y < 6; y++) for (let x = 0; x < 9; x++) expect(samples[y * 9 + x]).toBeCloseTo(height(x, 5 - y), 4);
  });

  test('GLB: y is up, and nodes move and scale what they hold', async () => {
    const { info, samples } = await samplesOf('arch.glb', glbOf(ground, [10, 1000, -20]));
    // the scene doubles everything
    expect(info.mesh).toMatchObject({ vertices: 54, triangles: 80, options: { up: 'y', spacing: 5 }, guessed: false });
    expect([info.georeference!.x, info.georeference!.y]).toEqual([200, 105]);
    for (let y = 0; y < 6; y++)
      for (let x = 0; x < 9; x++) expect(samples[y * 9 + x]).toBeCloseTo(2 * height(x, 5 - y), 2);
  });

  test('the axis that is up is the one along which ground is low', async () => {
    const flat = groundMesh(20, 20, 5, (x, y) => x + y);
    expect((await samplesOf('a.obj', objOf(flat, 'z'))).info.mesh).toMatchObject({
      options: { up: 'z' },
      guessed: true,
    });
    expect((await samplesOf('a.obj', objOf(flat, 'y'))).info.mesh).toMatchObject({ options: { up: 'y' } });
  });

  test('units, spacing, and places between vertices on the planes of triangles', async () => {
    const plane = groundMesh(5, 5, 100, (x, y) => 100 * (3 * x - y));
    const { info, samples } = await samplesOf('a.ply', plyOf(plane, 'little'), { up: 'z', metres: 0.01, spacing: 0.3 });
    expect([info.width, info.height]).toEqual([14, 14]);
    for (let j = 0; j < 14; j++)
      for (let i = 0; i < 14; i++) expect(samples[j * 14 + i]).toBeCloseTo(3 * 0.3 * i - (4 - 0.3 * j), 5);
  });
});

/** A wall with a roof that reaches 8 m over the ground at its foot. */
const arch: TestMesh = joined(
  groundMesh(21, 11, 1, () => 10),
  {
    vertices: [
      [5, 2, 30],
      [13, 2, 30],
      [13, 8, 30],
      [5, 8, 30],
      [5, 2, 25],
      [13, 2, 25],
      [13, 8, 25],
      [5, 8, 25],
    ],
    faces: [
      [0, 1, 2, 3],
      [7, 6, 5, 4],
    ],
  },
);

describe('overhangs', () => {
  test('the highest surface wins; where there is ground below it is counted and shown', async () => {
    const { info, samples } = await samplesOf('arch.obj', objOf(arch), { up: 'z', spacing: 1 });
    let under = 0;
    for (let j = 0; j < 11; j++)
      for (let i = 0; i < 21; i++) {
        const y = 10 - j;
        const roof = i >= 5 && i <= 13 && y >= 2 && y <= 8;
        expect(samples[j * 21 + i]).toBe(roof ? 30 : 10);
        if (roof) under++;
      }
    // along its outline a roof belongs to one side only: 8 by 6 of the 9 by 7 samples
    expect(under).toBe(63);
    expect(info.mesh).toMatchObject({ overhangs: 48 });
    const [x, y] = info.mesh!.overhangAt!;
    expect([x >= 5 && x <= 13, 10 - y >= 2 && 10 - y <= 8]).toEqual([true, true]);
    expect(info.warnings.map((w) => w.code)).toEqual(['overhang']);
  });

  test('wound the other way round it is the same', async () => {
    const turned = { ...arch, faces: arch.faces.map((f) => [...f].reverse()) };
    expect((await samplesOf('arch.obj', objOf(turned), { up: 'z', spacing: 1 })).info.mesh).toMatchObject({
      overhangs: 48,
    });
  });

  test('a closed block has none, nor has ground with steep walls', async () => {
    const block: TestMesh = {
      vertices: [0, 10].flatMap(
        (z) =>
          [
            [0, 0, z],
            [20, 0, z],
            [20, 20, z],
            [0, 20, z],
          ] as [number, number, number][],
      ),
      faces: [
        [3, 2, 1, 0],
        [4, 5, 6, 7],
        [0, 1, 5, 4],
        [1, 2, 6, 5],
        [2, 3, 7, 6],
        [3, 0, 4, 7],
      ],
    };
    const { info, samples } = await samplesOf('block.obj', objOf(block), { up: 'z', spacing: 1 });
    expect(info.mesh).toMatchObject({ overhangs: 0 });
    expect(new Set(samples)).toEqual(new Set([10]));
    const steps = groundMesh(30, 30, 1, (x) => (x > 15 ? 400 : 0));
    expect((await samplesOf('steps.obj', objOf(steps), { up: 'z' })).info.mesh).toMatchObject({ overhangs: 0 });
  });
});

test('a hole is void, ground beyond a pinned volume is counted, and the volume says place and size', async () => {
  const faces = ground.faces.filter((_, i) => i !== 11);
  const { info, samples } = await samplesOf('hole.obj', objOf({ ...ground, faces }), {
    up: 'z',
    spacing: 1.25,
    volume: { min: [95, 35, 1300], max: [115, 55, 1325] },
  });
  expect([info.width, info.height]).toEqual([17, 17]);
  expect(info.georeference).toMatchObject({ x: 95, y: 55, dx: 1.25 });
  // west of the mesh there is nothing
  expect(samples[8 * 17 + 1]).toBeNaN();
  // face 11: its middle lies at column 3.5, row 1.5 of the grid of vertices
  const [column, row] = [(100 + 3.5 * 2.5 - 95) / 1.25, (55 - (40 + 1.5 * 2.5)) / 1.25];
  expect([Number.isInteger(column), Number.isInteger(row)]).toEqual([true, true]);
  expect(samples[row * 17 + column]).toBeNaN();
  expect(samples[row * 17 + column + 2]).not.toBeNaN();
  expect(info.mesh!.outside).toBeGreaterThan(10);
  expect(info.warnings.map((w) => w.code)).toEqual(['outside']);
});

test('vertices that are no place are refused, or left out where that was agreed', async () => {
  const text = objOf(ground, 'z').replace(/v 100 40 [^\r]*/, 'v 100 40 nan');
  const error = await faultOf(() => samplesOf('arch.obj', text, { up: 'z' }));
  expect(error).toMatchObject({ code: 'corrupt', file: 'arch.obj' });
  expect(error.found).toBe('2 triangles with a vertex that is not a number');
  const { samples, info } = await samplesOf('arch.obj', text, { up: 'z', spacing: 2.5, partial: true });
  expect(samples[5 * 9]).toBeNaN();
  expect(samples[0]).toBeCloseTo(height(0, 5), 4);
  expect(info.warnings[0]?.message).toContain('2 triangles have a vertex that is not a number');
});

test.each([
  ['a.obj', 'v 1 2\nf 1 2 3\n', '"v 1 2" in line 1'],
  ['a.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n', 'triangle 1 with a corner 9'],
  ['a.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 -7\n', 'in line 4'],
  ['a.obj', 'v 0 0 0\n', '1 vertices and no triangle'],
  ['a.ply', 'ply\nformat ascii 1.0\n', 'a header without its end'],
  ['a.ply', 'ply\nformat ascii 1.0\nelement vertex 999999999\nend_header\n', '999999999 of "vertex"'],
  [
    'a.ply',
    'ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nend_header\n1\n',
    'no vertices with x, y and z',
  ],
  ['a.stl', 'nothing of the kind, but long enough to have a header of eighty bytes and four bytes of count', 'bytes'],
  ['a.glb', 'glTF\x02\0\0\0\x40\0\0\0\xff\xff\xff\x7fJSON', 'bytes of scene'],
])('%s %j is refused', async (name, text, words) => {
  const error = await faultOf(() => samplesOf(name, Buffer.from(text, 'latin1')));
  expect(error.file).toBe(name);
  expect(error.message).toContain(words);
});

test('cut anywhere, or with any byte changed, a mesh is read or refused with a sentence', async () => {
  for (const [name, make] of [...files, ['arch.glb', () => glbOf(ground)] as (typeof files)[number]]) {
    const bytes = Buffer.from(make());
    for (let i = 0; i < 60; i++) {
      const damaged = Buffer.from(i % 2 ? bytes.subarray(0, Math.floor((bytes.length * i) / 60)) : bytes);
      if (i % 2 === 0) damaged[Math.floor((bytes.length * (i + 0.5)) / 60)]! ^= 1 << (i % 8);
      await samplesOf(name, damaged, { spacing: 2.5 }).catch((reason: unknown) => {
        expect(reason).toMatchObject({ name: 'LevelGridError' });
        expect((reason as { code: string }).code).not.toBe('internal');
      });
    }
  }
});
