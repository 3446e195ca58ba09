import { concatBytes, memorySource, type LevelGridError } from '../../src/core/base';
import { bundleHead } from '../../src/core/formats';
import { countSource, openReading } from '../../src/core/run';
import { writeExr } from '../helpers/write-exr';
import { glbOf, groundMesh, objOf, plyOf, stlOf, type TestMesh } from '../helpers/write-mesh';
import { writeTiff } from '../helpers/write-tiff';
import type { Chance } from './chance';
import { ours, type Target } from './target';

interface Input {
  readonly name: string;
  readonly bytes: Uint8Array;
  /** What must be read, where nothing was bent. */
  readonly truth: ((x: number, y: number) => number) | null;
}

/** Larger ones are opened only: their size is claimed, and what they hold is read elsewhere. */
const MOST_SAMPLES = 2e6;

const ground = (x: number, y: number): number => Math.fround(900 + 700 * Math.sin(x * 0.21) * Math.cos(y * 0.17));
const code = (x: number, y: number): number => (Math.round(ground(x, y) * 13) & 0xffff) >>> 0;

function tiff(chance: Chance, width: number, height: number): Omit<Input, 'name'> {
  const type = chance.one(['uint', 'int', 'float'] as const);
  const bits = type === 'float' ? chance.one([32, 64] as const) : chance.one([16, 32] as const);
  const value = type === 'float' ? ground : type === 'uint' ? code : (x: number, y: number) => code(x, y) - 20000;
  const bytes = writeTiff(
    {
      width,
      height,
      type,
      bits,
      little: chance.in(2),
      big: chance.in(3),
      compression: chance.one([1, 8, 32773] as const),
      predictor: chance.one(type === 'float' ? ([1, 3] as const) : ([1, 2] as const)),
      samples: chance.one([1, 1, 1, 2, 3]),
      planar: chance.one([1, 2] as const),
      ...(chance.in(2) ? { tile: [16, 32] as const } : { rowsPerStrip: chance.whole(1, height) }),
      ...(chance.in(3) ? { tags: [[42113, 2, '-32768'] as const] } : {}),
    },
    value,
  );
  // signed codes of 16 bits may be none below −32768
  return { bytes, truth: bits === 16 && type === 'int' ? (x, y) => (value(x, y) << 16) >> 16 : value };
}

function exr(chance: Chance, width: number, height: number): Omit<Input, 'name'> {
  const type = chance.one(['float', 'uint'] as const);
  const value = type === 'float' ? ground : code;
  const shape = {
    width,
    height,
    channels: [...(chance.in(3) ? [{ name: 'A', type: 'half' as const }] : []), { name: 'Y', type }],
    compression: chance.one(['none', 'RLE', 'ZIPS', 'ZIP', 'PIZ'] as const),
    ...(chance.in(3) ? { tile: [16, 16] as const } : {}),
  };
  const other = { ...shape, channels: [{ name: 'Z', type: 'float' as const }] };
  const write = (c: string, x: number, y: number): number => (c === 'A' ? 1 : value(x, y));
  return {
    bytes: writeExr(
      chance.in(4)
        ? [
            [shape, write],
            [other, write],
          ]
        : [[shape, write]],
    ),
    truth: value,
  };
}

function text(chance: Chance, width: number, height: number): Omit<Input, 'name'> {
  const end = chance.one(['\n', '\r\n', ' \n']);
  const where = chance.one(['corner', 'center']);
  const head = [
    `ncols ${width}`,
    `nrows ${height}`,
    `xll${where} ${chance.whole(-9, 9)}`,
    `yll${where} 0`,
    'cellsize 2',
  ];
  const rows = Array.from({ length: height }, (_, y) =>
    Array.from({ length: width }, (_v, x) => ground(x, y)).join(' '),
  );
  return { bytes: new TextEncoder().encode([...head, ...rows].join(end)), truth: ground };
}

function portable(chance: Chance, width: number, height: number): Omit<Input, 'name'> {
  const float = chance.in(2);
  const little = chance.in(2);
  const head = new TextEncoder().encode(
    float ? `Pf\n${width} ${height}\n${little ? -1 : 1}\n` : `P5\n${width} ${height}\n65535\n`,
  );
  const size = float ? 4 : 2;
  const bytes = new Uint8Array(head.length + width * height * size);
  bytes.set(head);
  const view = new DataView(bytes.buffer, head.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (float) view.setFloat32(((height - 1 - y) * width + x) * 4, ground(x, y), little);
      else view.setUint16((y * width + x) * 2, code(x, y));
  return { bytes, truth: float ? ground : code };
}

function grid(chance: Chance, width: number, height: number): Omit<Input, 'name'> {
  const layout = chance.one(['BIL', 'BIP', 'BSQ'] as const);
  const bands = chance.whole(1, 3);
  const little = chance.in(2);
  const skip = chance.one([0, 0, 16]);
  const heights = new Uint8Array(skip + width * height * bands * 2);
  const view = new DataView(heights.buffer, skip);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = { BIL: y * bands * width + x, BIP: (y * width + x) * bands, BSQ: y * width + x }[layout];
      view.setUint16(at * 2, code(x, y), little);
    }
  const lines = [
    `NROWS ${height}`,
    `NCOLS ${width}`,
    `NBANDS ${bands}`,
    'NBITS 16',
    'PIXELTYPE UNSIGNEDINT',
    `BYTEORDER ${little ? 'I' : 'M'}`,
    `LAYOUT ${layout}`,
    `SKIPBYTES ${skip}`,
    ...(chance.in(2) ? ['XDIM 2', 'YDIM 2', 'ULXMAP 0', 'ULYMAP 9'] : []),
  ];
  const header = new TextEncoder().encode(lines.join(chance.one(['\n', '\r\n'])));
  const parts = [
    { name: 'tarn.bil', size: heights.length },
    { name: 'tarn.hdr', size: header.length },
  ];
  return { bytes: concatBytes([bundleHead(parts), heights, header]), truth: code };
}

/** A mesh on a grid, 100 m from vertex to vertex, whose samples are its vertices. */
function mesh(write: (mesh: TestMesh, chance: Chance) => Uint8Array) {
  return (chance: Chance, width: number, height: number): Omit<Input, 'name'> => {
    // of a single row there are no faces
    const [across, down] = [Math.max(2, width), Math.max(2, height)];
    const low = (x: number, y: number): number => Math.fround(ground(x, y) / 100);
    const made = groundMesh(across, down, 100, (x, y) => low(x, down - 1 - y));
    return { bytes: write(made, chance), truth: low };
  };
}

const KINDS = {
  'tarn.obj': mesh((m, chance) => Buffer.from(objOf(m, chance.one(['y', 'z'])))),
  'tarn.stl': mesh((m, chance) => stlOf(m, chance.in(2), chance.one(['y', 'z']))),
  'tarn.ply': mesh((m, chance) => plyOf(m, chance.one(['ascii', 'little', 'big']), chance.one(['y', 'z']))),
  'tarn.glb': mesh((m) => glbOf(m, [0, 0, 0], 1)),
  'tarn.tif': tiff,
  'tarn.exr': exr,
  'tarn.asc': text,
  'tarn.pfm': portable,
  'tarn.bil': grid,
} as const;

function anyFile(chance: Chance): Input {
  const name = chance.one(Object.keys(KINDS) as (keyof typeof KINDS)[]);
  const made = KINDS[name](chance, chance.whole(1, 40), chance.whole(1, 40));
  if (chance.in(5)) return { name, ...made };
  return { name, bytes: bent(chance, made.bytes), truth: null };
}

/** Cut short, or with bytes, numbers or stretches of it replaced; more often near its front, where the header is. */
function bent(chance: Chance, whole: Uint8Array): Uint8Array {
  if (chance.in(5)) return whole.slice(0, chance.whole(0, whole.length));
  const bytes = new Uint8Array(whole);
  const view = new DataView(bytes.buffer);
  for (let n = chance.whole(1, 4); n > 0; n--) {
    // a TIFF has its directory at its end
    const from = chance.in(3) ? Math.max(0, bytes.length - 300) : 0;
    const at = Math.min(bytes.length - 1, from + (chance.in(2) ? chance.whole(0, 400) : chance.whole(0, bytes.length)));
    if (chance.in(2) || at + 4 > bytes.length) bytes[at] = chance.whole(0, 255);
    else view.setUint32(at, chance.one([0, 1, 0xffffffff, 0x7fffffff, 65536, chance.whole(0, 2 ** 31)]), chance.in(2));
  }
  return bytes;
}

export const formats: Target<Input> = {
  name: 'formats',
  make: anyFile,
  async check({ name, bytes, truth }, count) {
    try {
      const source = memorySource(name, bytes);
      const opened = await openReading(source, {});
      const { width, height } = opened.info;
      if (width * height > MOST_SAMPLES) {
        count('large, opened only');
        return 'accepted';
      }
      let rows = 0;
      let voids = 0;
      for await (const band of opened.bands()) {
        if (band.y !== rows || band.data.length !== band.rows * width)
          throw new Error(`a band of row ${band.y} that is none`);
        rows += band.rows;
        for (let i = 0; i < band.data.length; i++) {
          const value = Number(band.data[i]);
          if (!Number.isFinite(value)) voids++;
          if (truth && value !== truth(i % width, band.y + Math.floor(i / width)))
            throw new Error(`${name}: sample ${i} of row ${band.y} is ${value}`);
        }
      }
      if (rows !== height) throw new Error(`${rows} of ${height} rows came`);
      const { facts } = await countSource(source, undefined);
      if (facts.stats?.voids !== voids) throw new Error(`${facts.stats?.voids} voids were counted, there are ${voids}`);
      count(truth ? `${name.slice(5)}, whole` : `${name.slice(5)}, bent and read`);
      return 'accepted';
    } catch (reason) {
      ours(reason);
      if (truth) throw reason;
      if ((reason as LevelGridError).code === 'internal') throw reason;
      return 'refused';
    }
  },
};
