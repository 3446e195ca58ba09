/** Meshes as files, written plainly for tests: x east, y north, z up; `up: 'y'` turns them as such files are. */
export interface TestMesh {
  readonly vertices: readonly (readonly [number, number, number])[];
  /** Corners of polygons, anticlockwise from above. */
  readonly faces: readonly (readonly number[])[];
}

type Up = 'y' | 'z';
const turned = ([x, y, z]: readonly [number, number, number], up: Up): [number, number, number] =>
  up === 'y' ? [x, z, -y] : [x, y, z];
const triangles = ({ faces }: TestMesh): number[][] =>
  faces.flatMap((f) => f.slice(2).map((_, i) => [f[0]!, f[i + 1]!, f[i + 2]!]));

export function objOf(mesh: TestMesh, up: Up = 'z'): string {
  return [
    '# a mesh',
    'o Wend_Arch',
    ...mesh.vertices.map((v) => `v ${turned(v, up).join(' ')}`),
    'vn 0 0 1',
    's off',
    ...mesh.faces.map((f) => `f ${f.map((i) => `${i + 1}//1`).join(' ')}`),
    '',
  ].join('\r\n');
}

export function stlOf(mesh: TestMesh, binary: boolean, up: Up = 'z'): Buffer {
  const all = triangles(mesh);
  if (!binary)
    return Buffer.from(
      `solid arch\n${all.map((t) => ` facet normal 0 0 0\n  outer loop\n${t.map((i) => `   vertex ${turned(mesh.vertices[i]!, up).join(' ')}\n`).join('')}  endloop\n endfacet\n`).join('')}endsolid arch\n`,
    );
  const out = Buffer.alloc(84 + 50 * all.length);
  out.writeUInt32LE(all.length, 80);
  all.forEach((t, i) =>
    t.forEach((v, k) =>
      turned(mesh.vertices[v]!, up).forEach((n, a) => out.writeFloatLE(n, 84 + 50 * i + 12 + 12 * k + 4 * a)),
    ),
  );
  return out;
}

export function plyOf(mesh: TestMesh, format: 'ascii' | 'little' | 'big', up: Up = 'z'): Buffer {
  const head = `ply\nformat ${format === 'ascii' ? 'ascii' : `binary_${format}_endian`} 1.0\ncomment made for a test\nelement vertex ${mesh.vertices.length}\nproperty double x\nproperty double y\nproperty double z\nproperty uchar red\nelement face ${mesh.faces.length}\nproperty list uchar int vertex_indices\nend_header\n`;
  if (format === 'ascii')
    return Buffer.from(
      `${head}${mesh.vertices.map((v) => `${turned(v, up).join(' ')} 7\n`).join('')}${mesh.faces.map((f) => `${f.length} ${f.join(' ')}\n`).join('')}`,
    );
  const little = format === 'little';
  const size = mesh.vertices.length * 25 + mesh.faces.reduce((n, f) => n + 1 + 4 * f.length, 0);
  const body = Buffer.alloc(size);
  let at = 0;
  for (const v of mesh.vertices) {
    for (const n of turned(v, up)) at = little ? body.writeDoubleLE(n, at) : body.writeDoubleBE(n, at);
    at = body.writeUInt8(7, at);
  }
  for (const f of mesh.faces) {
    at = body.writeUInt8(f.length, at);
    for (const i of f) at = little ? body.writeInt32LE(i, at) : body.writeInt32BE(i, at);
  }
  return Buffer.concat([Buffer.from(head), body]);
}

/** A scene of one node that moves the mesh by `by`, which is taken off its vertices before. */
export function glbOf(mesh: TestMesh, by: readonly [number, number, number] = [0, 0, 0], scale = 2): Buffer {
  const all = triangles(mesh);
  const bin = Buffer.alloc(12 * mesh.vertices.length + 12 * all.length);
  mesh.vertices.forEach((v, i) => turned(v, 'y').forEach((n, a) => bin.writeFloatLE(n - by[a]!, 12 * i + 4 * a)));
  all.forEach((t, i) => t.forEach((v, k) => bin.writeUInt32LE(v, 12 * mesh.vertices.length + 12 * i + 4 * k)));
  const json = Buffer.from(
    JSON.stringify({
      asset: { version: '2.0' },
      scene: 0,
      scenes: [{ nodes: [0] }],
      nodes: [
        { children: [1], scale: [scale, scale, scale] },
        { mesh: 0, translation: by.map((v) => v), scale: [1, 1, 1] },
      ],
      meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
      buffers: [{ byteLength: bin.length }],
      bufferViews: [
        { buffer: 0, byteOffset: 0, byteLength: 12 * mesh.vertices.length },
        { buffer: 0, byteOffset: 12 * mesh.vertices.length, byteLength: 12 * all.length },
      ],
      accessors: [
        { bufferView: 0, componentType: 5126, count: mesh.vertices.length, type: 'VEC3' },
        { bufferView: 1, componentType: 5125, count: 3 * all.length, type: 'SCALAR' },
      ],
    }),
  );
  const padded = Buffer.concat([json, Buffer.alloc((4 - (json.length % 4)) % 4, 32)]);
  const head = Buffer.alloc(20);
  head.write('glTF', 0);
  head.writeUInt32LE(2, 4);
  head.writeUInt32LE(28 + padded.length + bin.length, 8);
  head.writeUInt32LE(padded.length, 12);
  head.writeUInt32LE(0x4e4f534a, 16);
  const chunk = Buffer.alloc(8);
  chunk.writeUInt32LE(bin.length, 0);
  chunk.writeUInt32LE(0x004e4942, 4);
  return Buffer.concat([head, padded, chunk, bin]);
}

/** A grid of ground, `step` apart, from a corner in the south-west; faces of four corners. */
export function groundMesh(
  across: number,
  down: number,
  step: number,
  height: (x: number, y: number) => number,
  [west, south]: readonly [number, number] = [0, 0],
): TestMesh {
  const vertices: [number, number, number][] = [];
  for (let j = 0; j < down; j++)
    for (let i = 0; i < across; i++) vertices.push([west + i * step, south + j * step, height(i, j)]);
  const faces: number[][] = [];
  for (let j = 0; j + 1 < down; j++)
    for (let i = 0; i + 1 < across; i++) {
      const a = j * across + i;
      faces.push([a, a + 1, a + 1 + across, a + across]);
    }
  return { vertices, faces };
}

/** Two meshes as one. */
export const joined = (a: TestMesh, b: TestMesh): TestMesh => ({
  vertices: [...a.vertices, ...b.vertices],
  faces: [...a.faces, ...b.faces.map((f) => f.map((i) => i + a.vertices.length))],
});
