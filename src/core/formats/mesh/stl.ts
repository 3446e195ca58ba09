import type { ByteSource } from '../../base';
import { brokenMesh, GeometryBuilder, MOST_TRIANGLES, textLines, type Geometry } from './geometry';

const HEADER = 84;
const FACET = 50;
/** Facets that are read at once. */
const AT_ONCE = 65536;

/** STL, binary or as text. Corners of the same position become one vertex. */
export async function readStl(source: ByteSource): Promise<Geometry> {
  const head = await source.read(0, HEADER);
  const count = head.length === HEADER ? new DataView(head.buffer, head.byteOffset).getUint32(80, true) : 0;
  if (HEADER + FACET * count === source.size) return readBinary(source, count);
  if (/^\s*solid\b/.test(new TextDecoder('latin1').decode(head))) return readText(source);
  throw brokenMesh(`${source.size} bytes`, `${HEADER + FACET * count} for the ${count} triangles of its header`);
}

async function readBinary(source: ByteSource, count: number): Promise<Geometry> {
  if (count > MOST_TRIANGLES) throw brokenMesh(`${count} triangles`, `at most ${MOST_TRIANGLES}`);
  const corners = new Merged(count);
  for (let from = 0; from < count; from += AT_ONCE) {
    const n = Math.min(AT_ONCE, count - from);
    const bytes = await source.read(HEADER + from * FACET, n * FACET);
    if (bytes.length < n * FACET) throw brokenMesh('the end of the file', `${count} triangles`);
    const view = new DataView(bytes.buffer, bytes.byteOffset);
    for (let i = 0; i < n; i++)
      for (let k = 0; k < 3; k++) {
        const at = i * FACET + 12 + 12 * k;
        corners.add(view.getFloat32(at, true), view.getFloat32(at + 4, true), view.getFloat32(at + 8, true));
      }
  }
  return corners.result();
}

async function readText(source: ByteSource): Promise<Geometry> {
  const corners = new Merged(1024);
  let number = 0;
  for await (const lines of textLines(source))
    for (const line of lines) {
      number++;
      const words = line.trim().split(/\s+/);
      if (words[0] !== 'vertex') continue;
      const [x, y, z] = [Number(words[1]), Number(words[2]), Number(words[3])];
      if (words.length < 4 || (x !== x && y !== y && z !== z))
        throw brokenMesh(`"${line.trim().slice(0, 60)}" in line ${number}`, 'vertex and three numbers');
      corners.add(x, y, z);
    }
  return corners.result();
}

/** Corners, three to a triangle, of which those at the same place are one vertex: an open table over their places. */
class Merged {
  private readonly builder: GeometryBuilder;
  private readonly corner: number[] = [];
  private table: Int32Array;
  private places: number[] = [];

  constructor(triangles: number) {
    this.builder = new GeometryBuilder(triangles, triangles);
    this.table = new Int32Array(1 << 16).fill(-1);
  }

  add(x: number, y: number, z: number): void {
    this.corner.push(this.indexOf(x, y, z));
    if (this.corner.length < 3) return;
    const [a = 0, b = 0, c = 0] = this.corner;
    this.builder.triangle(a, b, c);
    this.corner.length = 0;
  }

  private indexOf(x: number, y: number, z: number): number {
    const { places } = this;
    if (2 * this.builder.vertices >= this.table.length) this.grow();
    const mask = this.table.length - 1;
    let slot = hashOf(x, y, z) & mask;
    for (;;) {
      const held = this.table[slot]!;
      if (held < 0) break;
      if (places[3 * held] === x && places[3 * held + 1] === y && places[3 * held + 2] === z) return held;
      slot = (slot + 1) & mask;
    }
    const index = this.builder.vertices;
    this.table[slot] = index;
    places.push(x, y, z);
    this.builder.vertex(x, y, z);
    return index;
  }

  private grow(): void {
    const mask = 2 * this.table.length - 1;
    const next = new Int32Array(mask + 1).fill(-1);
    for (const index of this.table) {
      if (index < 0) continue;
      let slot = hashOf(this.places[3 * index]!, this.places[3 * index + 1]!, this.places[3 * index + 2]!) & mask;
      while (next[slot]! >= 0) slot = (slot + 1) & mask;
      next[slot] = index;
    }
    this.table = next;
  }

  result(): Geometry {
    if (this.corner.length > 0)
      throw brokenMesh(`${this.corner.length} corners after the last triangle`, 'three to each');
    return this.builder.result(null);
  }
}

const bits = new Float64Array(3);
const words = new Int32Array(bits.buffer);

function hashOf(x: number, y: number, z: number): number {
  bits[0] = x + 0;
  bits[1] = y + 0;
  bits[2] = z + 0;
  let h = 0;
  for (let i = 0; i < 6; i++) h = Math.imul(h ^ words[i]!, 0x9e3779b1) ^ (h >>> 15);
  return h ^ (h >>> 13);
}
