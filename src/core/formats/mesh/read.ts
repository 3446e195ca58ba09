import { asLevelGridError, checkpoint, formatNumber, formatShort, LevelGridError, type ByteSource } from '../../base';
import {
  bandRows,
  type Box,
  type MeshOptions,
  type OpenRaster,
  type RasterInfo,
  type RasterWarning,
} from '../../raster';
import { begins, type HeightFormat } from '../format';
import { bake, boundsOf, ownSpacing, sizeOf, upright, type Baked } from './bake';
import type { Geometry } from './geometry';
import { readGlb } from './glb';
import { readObj } from './obj';
import { readPly } from './ply';
import { readStl } from './stl';

/** Larger files are not read: a mesh is held as a whole. */
const MOST_BYTES = 2 ** 31;
/** Samples of a baked raster. */
const MOST_SAMPLES = 2 ** 28;
const MOST_SIDE = 65535;
/** Metres; further away there is no ground, and differences lose their digits. */
const MOST_REACH = 1e12;

const READERS = { obj: readObj, stl: readStl, ply: readPly, glb: readGlb } as const;
export type MeshKind = keyof typeof READERS;

const meshFormat = (id: MeshKind, sniff: HeightFormat['sniff']): HeightFormat => ({
  id,
  name: id.toUpperCase(),
  endings: [id],
  takes: 'mesh',
  sniff,
  open: (source) => openMesh(source, id),
});

/** Meshes, which become a raster as they are seen from above. */
export const MESH_FORMATS: readonly HeightFormat[] = [
  meshFormat('glb', ({ head }) => begins(head, 0x67, 0x6c, 0x54, 0x46)),
  meshFormat('ply', ({ head }) => begins(head, 0x70, 0x6c, 0x79, 0x0a) || begins(head, 0x70, 0x6c, 0x79, 0x0d)),
  meshFormat('stl', ({ ending }) => ending === 'stl'),
  meshFormat('obj', ({ ending }) => ending === 'obj'),
];

export const isMeshKind = (id: string): id is MeshKind => id in READERS;

/** The triangles of a file. */
export async function readGeometry(source: ByteSource, kind: MeshKind): Promise<Geometry> {
  if (source.size > MOST_BYTES)
    throw new LevelGridError('too-large', {
      found: `a mesh of ${source.size} bytes`,
      expected: `at most ${MOST_BYTES}`,
      remedy: 'Export the ground alone, or with fewer triangles.',
    });
  try {
    return await READERS[kind](source);
  } catch (reason) {
    throw asLevelGridError(reason, 'reading the mesh', source.name);
  }
}

/** Where a side is this much longer than another, the shorter one is up. */
const CLEARLY = 1.2;

/** The axis that is up: as the format says, else the one along which the mesh is lowest: ground is wider than high. */
function upOf({ positions, triangles, up }: Geometry, kind: MeshKind): { up: 'y' | 'z'; guessed: boolean } {
  if (up) return { up, guessed: false };
  const box = boundsOf(positions, triangles);
  const [y, z] = box ? [box.max[1] - box.min[1], box.max[2] - box.min[2]] : [0, 0];
  if (y > CLEARLY * z) return { up: 'z', guessed: true };
  if (z > CLEARLY * y) return { up: 'y', guessed: true };
  return { up: kind === 'obj' ? 'y' : 'z', guessed: true };
}

/** Vertices that are no place: what triangles use them can't be ground. */
function finiteOnly(geometry: Geometry, dropped: boolean): { geometry: Geometry; lost: number } {
  const { positions, triangles } = geometry;
  let bad = 0;
  for (let t = 0; t < triangles.length; t += 3) if (!finite(positions, triangles, t)) bad++;
  if (bad === 0) return { geometry, lost: 0 };
  if (!dropped)
    throw new LevelGridError('corrupt', {
      found: `${formatNumber(bad, 0)} ${bad === 1 ? 'triangle' : 'triangles'} with a vertex that is not a number`,
      expected: 'vertices that lie somewhere',
      remedy: 'Mend the mesh where it was made, or agree that these triangles are left out.',
    });
  const kept = new Uint32Array(triangles.length - 3 * bad);
  let at = 0;
  for (let t = 0; t < triangles.length; t += 3)
    if (finite(positions, triangles, t)) {
      kept.set(triangles.subarray(t, t + 3), at);
      at += 3;
    }
  return { geometry: { ...geometry, triangles: kept }, lost: bad };
}

function finite(positions: Float64Array, triangles: Uint32Array, t: number): boolean {
  for (let k = 0; k < 3; k++) {
    const at = 3 * triangles[t + k]!;
    const sum = positions[at]! + positions[at + 1]! + positions[at + 2]!;
    if (sum - sum !== 0) return false;
  }
  return true;
}

/** What a caller says of a mesh; what is left out is found. */
export type MeshAsked = Partial<MeshOptions>;

/**
 * A mesh as a raster of floats in metres: what is asked for, else its own axis, unit and spacing. `partial` leaves out
 * triangles without a place.
 */
export async function openMesh(
  source: ByteSource,
  kind: MeshKind,
  asked: MeshAsked = {},
  partial = false,
): Promise<OpenRaster> {
  const { geometry, lost } = finiteOnly(await readGeometry(source, kind), partial);
  const { up, guessed } = asked.up ? { up: asked.up, guessed: false } : upOf(geometry, kind);
  const metres = asked.metres ?? 1;
  const points = upright(geometry, { up, metres });
  const { triangles } = geometry;
  const bounds = boundsOf(points, triangles);
  if (!bounds)
    throw new LevelGridError('corrupt', {
      file: source.name,
      found: 'no triangle that lies somewhere',
      expected: 'a surface',
      remedy: 'Export the mesh again.',
    });
  const box = asked.volume ?? bounds;
  const vertices = points.length / 3;
  const spacing = asked.spacing ?? ownSpacing(bounds, vertices);
  const reach = Math.max(...[0, 1, 2].map((axis) => Math.abs(bounds.max[axis]!) + Math.abs(bounds.min[axis]!)));
  if (!(reach < MOST_REACH))
    throw new LevelGridError('corrupt', {
      file: source.name,
      found: `vertices as far as ${reach.toPrecision(3)} m away`,
      expected: `vertices within ${MOST_REACH.toPrecision(3)} m`,
      remedy: 'Choose the unit of the mesh, or export it again.',
    });
  const { width, height } = sizeOf(box, spacing);
  if (width > MOST_SIDE || height > MOST_SIDE || width * height > MOST_SAMPLES)
    throw new LevelGridError('too-large', {
      file: source.name,
      found: `${width} × ${height} samples ${formatShort(spacing, 6)} m apart`,
      expected: `at most ${MOST_SAMPLES}`,
      remedy: 'Choose a wider spacing, or another unit of the mesh.',
    });
  const baked = bake(points, triangles, box, spacing);
  const info: RasterInfo = {
    format: kind,
    width,
    height,
    channels: 1,
    bitDepth: 32,
    sampleType: 'float',
    byteOrder: null,
    mayHoldVoids: true,
    unit: 'metre',
    registration: 'vertex',
    georeference: {
      x: box.min[0],
      y: box.max[1],
      dx: spacing,
      dy: spacing,
      metres: 1,
      degrees: false,
      crs: null,
    },
    mesh: {
      vertices,
      triangles: triangles.length / 3,
      bounds,
      options: { up, metres, spacing, ...(asked.volume ? { volume: asked.volume } : {}) },
      guessed,
      overhangs: baked.overhangs,
      overhangAt: baked.overhangAt,
      roofs: baked.roofs,
      outside: baked.outside,
    },
    warnings: meshWarnings(baked, lost, asked.volume),
  };
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const perBand = bandRows(width);
      for (let y = 0; y < height; y += perBand) {
        checkpoint(job);
        const rows = Math.min(perBand, height - y);
        yield { y, rows, data: baked.heights.slice(y * width, (y + rows) * width) };
      }
    },
  };
}

function meshWarnings({ overhangs, outside }: Baked, lost: number, volume: Box | undefined): RasterWarning[] {
  const out: RasterWarning[] = [];
  const many = (n: number, one: string, more: string): string => `${formatNumber(n, 0)} ${n === 1 ? one : more}`;
  if (overhangs > 0)
    out.push({
      code: 'overhang',
      message: `Under ${many(overhangs, 'sample', 'samples')} there is more ground below: a raster holds the highest surface only, and what lies under it is gone.`,
    });
  if (volume && outside > 0)
    out.push({
      code: 'outside',
      message: `${many(outside, 'triangle reaches', 'triangles reach')} beyond the pinned volume: what lies outside is cut off. Pin a larger one.`,
    });
  if (lost > 0)
    out.push({
      code: 'missing-rows',
      message: `${many(lost, 'triangle has', 'triangles have')} a vertex that is not a number: left out, as agreed.`,
    });
  return out;
}
