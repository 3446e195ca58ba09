import { gradientNoise } from '../core/base';

/** Vertices along a side of the ground, metres apart, and where the ground begins. */
const SIDE = 257;
const STEP = 2;
const BASE = 1480;

/** A half ring of stone: radius of its middle line, thickness, width, and pieces along it. */
const ARCH = { radius: 46, thick: 12, wide: 22, pieces: 40 } as const;

/** Wend Arch: fells around a gully with an arch of stone over it, as binary PLY; metres, z up. */
export function wendArch(): Uint8Array {
  const slow = gradientNoise(61031);
  const fine = gradientNoise(71011);
  const vertices: [number, number, number][] = [];
  const faces: number[][] = [];
  for (let j = 0; j < SIDE; j++)
    for (let i = 0; i < SIDE; i++) {
      const [x, y] = [i / (SIDE - 1), j / (SIDE - 1)];
      const gully = Math.exp(-(((x - 0.5 - 0.06 * slow(y * 3, 2)) / 0.07) ** 2));
      const height =
        60 * slow(x * 2.3, y * 2.3) +
        14 * slow(x * 7 + 5, y * 7) +
        3 * fine(x * 25 + y * 19, y * 25 - x * 19) +
        0.8 * fine(x * 62 - y * 55, y * 62 + x * 55);
      vertices.push([i * STEP, j * STEP, BASE + height - 42 * gully]);
    }
  for (let j = 0; j + 1 < SIDE; j++)
    for (let i = 0; i + 1 < SIDE; i++) {
      const a = j * SIDE + i;
      faces.push([a, a + 1, a + 1 + SIDE], [a, a + 1 + SIDE, a + SIDE]);
    }
  const middle = ((SIDE - 1) * STEP) / 2;
  const foot = vertices[(SIDE >> 1) * SIDE + (SIDE >> 1)]![2] + 6;
  const first = vertices.length;
  for (let n = 0; n <= ARCH.pieces; n++) {
    const angle = (Math.PI * n) / ARCH.pieces;
    for (const [out, along] of [
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ] as const) {
      const r = ARCH.radius + (out * ARCH.thick) / 2 + 1.5 * fine(n * 0.37, out + 3 * along);
      const y = middle + (along * ARCH.wide) / 2 + 2 * fine(n * 0.29 + 9, along);
      vertices.push([middle - r * Math.cos(angle), y, foot + r * Math.sin(angle) * 1.1]);
    }
  }
  for (let n = 0; n < ARCH.pieces; n++)
    for (let k = 0; k < 4; k++) {
      const [a, b] = [first + 4 * n + k, first + 4 * n + ((k + 1) % 4)];
      faces.push([a, b, b + 4], [a, b + 4, a + 4]);
    }
  return ply(vertices, faces);
}

function ply(
  vertices: readonly (readonly [number, number, number])[],
  faces: readonly (readonly number[])[],
): Uint8Array {
  const head = new TextEncoder().encode(
    `ply\nformat binary_little_endian 1.0\ncomment Wend Arch, metres, z up\nelement vertex ${vertices.length}\nproperty float x\nproperty float y\nproperty float z\nelement face ${faces.length}\nproperty list uchar int vertex_indices\nend_header\n`,
  );
  const out = new Uint8Array(head.length + 12 * vertices.length + 13 * faces.length);
  out.set(head);
  const view = new DataView(out.buffer);
  let at = head.length;
  for (const n of vertices.flat()) {
    view.setFloat32(at, n, true);
    at += 4;
  }
  for (const corners of faces) {
    view.setUint8(at++, corners.length);
    for (const i of corners) {
      view.setInt32(at, i, true);
      at += 4;
    }
  }
  return out;
}
