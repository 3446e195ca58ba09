import * as z from 'zod';
import { LevelGridError, parseJson, type ByteSource, type JsonKind } from '../../base';
import { brokenMesh, GeometryBuilder, type Geometry } from './geometry';

const JSON_CHUNK = 0x4e4f534a;
const BINARY_CHUNK = 0x004e4942;
const MOST_JSON = 2 ** 26;
const MOST_NODES = 100_000;

const index = z.int().min(0).max(1e6);
const size = z
  .int()
  .min(0)
  .max(2 ** 40);
const document = z.object({
  scene: index.optional(),
  scenes: z.array(z.object({ nodes: z.array(index).max(MOST_NODES).optional() })).optional(),
  nodes: z
    .array(
      z.object({
        mesh: index.optional(),
        children: z.array(index).max(MOST_NODES).optional(),
        matrix: z.array(z.number()).length(16).optional(),
        translation: z.array(z.number()).length(3).optional(),
        rotation: z.array(z.number()).length(4).optional(),
        scale: z.array(z.number()).length(3).optional(),
      }),
    )
    .max(MOST_NODES)
    .optional(),
  meshes: z
    .array(
      z.object({
        primitives: z.array(
          z.object({
            attributes: z.object({ POSITION: index.optional() }),
            indices: index.optional(),
            mode: index.optional(),
          }),
        ),
      }),
    )
    .optional(),
  accessors: z
    .array(
      z.object({
        bufferView: index.optional(),
        byteOffset: size.optional(),
        componentType: z.int(),
        normalized: z.boolean().optional(),
        count: size,
        type: z.string().max(16),
        sparse: z.unknown().optional(),
      }),
    )
    .optional(),
  bufferViews: z
    .array(
      z.object({
        buffer: index,
        byteOffset: size.optional(),
        byteLength: size,
        byteStride: z.int().min(4).max(252).optional(),
      }),
    )
    .optional(),
  buffers: z.array(z.object({ uri: z.string().optional(), byteLength: size })).optional(),
  extensionsRequired: z.array(z.string().max(80)).max(100).optional(),
});
type Document = z.infer<typeof document>;

const KIND: JsonKind = {
  words: 'scene of a mesh',
  code: 'corrupt',
  limits: { length: MOST_JSON, depth: 64 },
  remedy: 'Export the mesh again.',
};

/** Extensions that change nothing of where a surface lies. */
const HARMLESS = /^(KHR_materials_|KHR_texture_|KHR_mesh_quantization$|KHR_lights_|EXT_texture_)/;

/** GLB (glTF 2.0 in one file): the triangles of its scene, in metres, y up, as the format defines. */
export async function readGlb(source: ByteSource): Promise<Geometry> {
  const { json, binary } = await readChunks(source);
  const parsed = document.safeParse(parseJson(json, KIND, source.name));
  if (!parsed.success) {
    const at = parsed.error.issues[0]?.path.join('.') ?? '';
    throw brokenMesh(
      `a scene whose ${at === '' ? 'outline' : at} is missing or of another kind`,
      'the scene of a mesh',
    );
  }
  const needed = parsed.data.extensionsRequired?.find((e) => !HARMLESS.test(e));
  if (needed !== undefined)
    throw new LevelGridError('unsupported', {
      found: `geometry packed by ${needed}`,
      expected: 'plain geometry',
      remedy: 'Export the mesh without compression.',
    });
  const builder = new GeometryBuilder();
  new Scene(parsed.data, binary, builder).add();
  return builder.result('y');
}

async function readChunks(source: ByteSource): Promise<{ json: string; binary: Uint8Array }> {
  const head = await source.read(0, 20);
  const view = new DataView(head.buffer, head.byteOffset, head.length);
  if (head.length < 20 || view.getUint32(4, true) !== 2)
    throw brokenMesh(
      head.length < 20 ? `${head.length} bytes` : `version ${view.getUint32(4, true)}`,
      'glTF version 2',
    );
  const length = view.getUint32(12, true);
  if (view.getUint32(16, true) !== JSON_CHUNK || length > MOST_JSON || 20 + length > source.size)
    throw brokenMesh(`${length} bytes of scene`, `a scene first, within the ${source.size} bytes of the file`);
  const json = new TextDecoder().decode(await source.read(20, length));
  const at = 20 + length;
  if (at + 8 > source.size) return { json, binary: new Uint8Array(0) };
  const next = await source.read(at, 8);
  const chunk = new DataView(next.buffer, next.byteOffset);
  const bytes = chunk.getUint32(0, true);
  if (chunk.getUint32(4, true) !== BINARY_CHUNK || at + 8 + bytes > source.size)
    throw brokenMesh(`${bytes} bytes of geometry`, `at most ${source.size - at - 8}, which the file holds`);
  return { json, binary: await source.read(at + 8, bytes) };
}

/** Column by column, as the format has it. */
type Matrix = readonly number[];
const SAME: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

const times = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 16 }, (_, i) => {
    const [column, row] = [i >> 2, i & 3];
    let sum = 0;
    for (let k = 0; k < 4; k++) sum += a[4 * k + row]! * b[4 * column + k]!;
    return sum;
  });

function placed({
  matrix,
  translation: [tx = 0, ty = 0, tz = 0] = [],
  rotation: [x = 0, y = 0, z = 0, w = 1] = [],
  scale: [sx = 1, sy = 1, sz = 1] = [],
}: NonNullable<Document['nodes']>[number]): Matrix {
  if (matrix) return matrix;
  // prettier-ignore
  return [
    (1 - 2 * (y * y + z * z)) * sx, 2 * (x * y + z * w) * sx, 2 * (x * z - y * w) * sx, 0,
    2 * (x * y - z * w) * sy, (1 - 2 * (x * x + z * z)) * sy, 2 * (y * z + x * w) * sy, 0,
    2 * (x * z + y * w) * sz, 2 * (y * z - x * w) * sz, (1 - 2 * (x * x + y * y)) * sz, 0,
    tx, ty, tz, 1,
  ];
}

/** Numbers of an accessor by their kind: bytes, highest value where they are shares, and how one is read. */
const COMPONENTS: Readonly<Record<number, readonly [number, number, (v: DataView, at: number) => number]>> = {
  5120: [1, 127, (v, at) => v.getInt8(at)],
  5121: [1, 255, (v, at) => v.getUint8(at)],
  5122: [2, 32767, (v, at) => v.getInt16(at, true)],
  5123: [2, 65535, (v, at) => v.getUint16(at, true)],
  5125: [4, 4294967295, (v, at) => v.getUint32(at, true)],
  5126: [4, 1, (v, at) => v.getFloat32(at, true)],
};

class Scene {
  private visited = 0;

  constructor(
    private readonly scene: Document,
    private readonly binary: Uint8Array,
    private readonly builder: GeometryBuilder,
  ) {}

  add(): void {
    const { scenes, scene = 0, nodes = [] } = this.scene;
    const children = new Set(nodes.flatMap((n) => n.children ?? []));
    const roots = scenes?.[scene]?.nodes ?? [...nodes.keys()].filter((n) => !children.has(n));
    for (const node of roots) this.node(node, SAME);
  }

  private node(which: number, parent: Matrix): void {
    const node = this.scene.nodes?.[which];
    // nodes that hold each other would never end
    if (!node || ++this.visited > MOST_NODES) throw brokenMesh(`node ${which}`, 'nodes that form a tree');
    const matrix = times(parent, placed(node));
    if (node.mesh !== undefined) this.mesh(node.mesh, matrix);
    for (const child of node.children ?? []) this.node(child, matrix);
  }

  private mesh(which: number, m: Matrix): void {
    for (const { attributes, indices, mode = 4 } of this.scene.meshes?.[which]?.primitives ?? []) {
      // points and lines are no ground
      if (attributes.POSITION === undefined || mode < 4) continue;
      const first = this.builder.vertices;
      const positions = this.numbers(attributes.POSITION, 3);
      for (let i = 0; i < positions.length; i += 3) {
        const [x, y, z] = [positions[i]!, positions[i + 1]!, positions[i + 2]!];
        this.builder.vertex(
          m[0]! * x + m[4]! * y + m[8]! * z + m[12]!,
          m[1]! * x + m[5]! * y + m[9]! * z + m[13]!,
          m[2]! * x + m[6]! * y + m[10]! * z + m[14]!,
        );
      }
      const corners =
        indices === undefined
          ? Float64Array.from({ length: positions.length / 3 }, (_, i) => i)
          : this.numbers(indices, 1);
      this.triangles(corners, first, mode);
    }
  }

  private triangles(corners: Float64Array, first: number, mode: number): void {
    const corner = (i: number): number => first + corners[i]!;
    if (mode === 4)
      for (let i = 0; i + 2 < corners.length; i += 3) this.builder.triangle(corner(i), corner(i + 1), corner(i + 2));
    else
      for (let i = 0; i + 2 < corners.length; i++) {
        if (mode === 6) this.builder.triangle(corner(0), corner(i + 1), corner(i + 2));
        else if (i % 2 === 0) this.builder.triangle(corner(i), corner(i + 1), corner(i + 2));
        else this.builder.triangle(corner(i + 1), corner(i), corner(i + 2));
      }
  }

  private numbers(which: number, per: 1 | 3): Float64Array {
    const accessor = this.scene.accessors?.[which];
    const bufferView = this.scene.bufferViews?.[accessor?.bufferView ?? -1];
    if (!accessor || !bufferView || accessor.type !== (per === 3 ? 'VEC3' : 'SCALAR'))
      throw brokenMesh(`accessor ${which}`, 'numbers that lie in the file');
    const buffer = this.scene.buffers?.[bufferView.buffer];
    if (bufferView.buffer !== 0 || buffer?.uri !== undefined || accessor.sparse !== undefined)
      throw new LevelGridError('unsupported', {
        found: accessor.sparse !== undefined ? 'sparse geometry' : 'geometry that lies in another file',
        expected: 'all of it in this one',
        remedy: 'Export the mesh as one binary file.',
      });
    const component = COMPONENTS[accessor.componentType];
    if (!component) throw brokenMesh(`numbers of kind ${accessor.componentType}`, 'a kind of the format');
    const [bytes, highest, read] = component;
    const start = (bufferView.byteOffset ?? 0) + (accessor.byteOffset ?? 0);
    const stride = bufferView.byteStride ?? bytes * per;
    const { count } = accessor;
    const end = start + (count - 1) * stride + bytes * per;
    if (count > 0 && (end > this.binary.length || end > (bufferView.byteOffset ?? 0) + bufferView.byteLength))
      throw brokenMesh(
        `${count} numbers up to byte ${end}`,
        `no more than the ${this.binary.length} bytes of geometry`,
      );
    const view = new DataView(this.binary.buffer, this.binary.byteOffset, this.binary.byteLength);
    const unit = accessor.normalized ? 1 / highest : 1;
    const out = new Float64Array(count * per);
    for (let i = 0; i < count; i++)
      for (let k = 0; k < per; k++) out[i * per + k] = read(view, start + i * stride + k * bytes) * unit;
    return out;
  }
}
