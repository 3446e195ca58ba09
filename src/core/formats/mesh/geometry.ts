import { LevelGridError } from '../../base';

/** Vertices as a file holds them, three numbers each, and the corners of triangles among them. */
export interface Geometry {
  readonly positions: Float64Array;
  readonly triangles: Uint32Array;
  /** Axis that the format itself says is up; null where it says nothing. */
  readonly up: 'y' | 'z' | null;
}

/** More than this no artist sculpts, and a header that claims it is a lie or needs another tool. */
export const MOST_VERTICES = 100e6;
export const MOST_TRIANGLES = 100e6;

const tooMany = (found: number, words: string, most: number): LevelGridError =>
  new LevelGridError('too-large', {
    found: `${found} ${words}`,
    expected: `at most ${most}`,
    remedy: 'Export the ground alone, or with fewer triangles.',
  });

/** An array that grows. */
class Growing<T extends Float64Array | Uint32Array> {
  length = 0;

  constructor(private data: T) {}

  /** Room for `more`; where to write. */
  room(more: number): T {
    if (this.length + more > this.data.length) {
      const Kind = this.data.constructor as new (n: number) => T;
      const next = new Kind(Math.max(2 * this.data.length, this.length + more));
      next.set(this.data);
      this.data = next;
    }
    return this.data;
  }

  result(): T {
    return this.data.slice(0, this.length) as T;
  }
}

/** Collects a mesh vertex by vertex. `expected` are what a header says: room is made for no more than `bytes` can hold. */
export class GeometryBuilder {
  private readonly positions: Growing<Float64Array>;
  private readonly corners: Growing<Uint32Array>;

  constructor(expectedVertices = 1024, expectedTriangles = 1024) {
    this.positions = new Growing(new Float64Array(3 * Math.min(expectedVertices, 1 << 22)));
    this.corners = new Growing(new Uint32Array(3 * Math.min(expectedTriangles, 1 << 22)));
  }

  get vertices(): number {
    return this.positions.length / 3;
  }

  vertex(x: number, y: number, z: number): void {
    const at = this.positions.length;
    if (at >= 3 * MOST_VERTICES) throw tooMany(at / 3 + 1, 'vertices', MOST_VERTICES);
    const data = this.positions.room(3);
    data[at] = x;
    data[at + 1] = y;
    data[at + 2] = z;
    this.positions.length = at + 3;
  }

  triangle(a: number, b: number, c: number): void {
    const at = this.corners.length;
    if (at >= 3 * MOST_TRIANGLES) throw tooMany(at / 3 + 1, 'triangles', MOST_TRIANGLES);
    const data = this.corners.room(3);
    data[at] = a;
    data[at + 1] = b;
    data[at + 2] = c;
    this.corners.length = at + 3;
  }

  /** A polygon as triangles around its first corner. */
  polygon(corners: readonly number[]): void {
    for (let i = 2; i < corners.length; i++) this.triangle(corners[0]!, corners[i - 1]!, corners[i]!);
  }

  /** Throws where a corner is no vertex, or there is nothing. */
  result(up: Geometry['up']): Geometry {
    const { vertices } = this;
    const triangles = this.corners.result();
    if (triangles.length === 0)
      throw new LevelGridError('corrupt', {
        found: `${vertices} vertices and no triangle`,
        expected: 'a surface of triangles',
        remedy: 'Export the mesh with its faces.',
      });
    for (let i = 0; i < triangles.length; i++)
      if (triangles[i]! >= vertices)
        throw new LevelGridError('corrupt', {
          found: `triangle ${Math.floor(i / 3) + 1} with a corner ${triangles[i]! + 1}`,
          expected: `one of ${vertices} vertices`,
          remedy: 'The file is damaged: export it again.',
        });
    return { positions: this.positions.result(), triangles, up };
  }
}

/** Of a file that can't be read any further. */
export const brokenMesh = (found: string, expected: string): LevelGridError =>
  new LevelGridError('corrupt', { found, expected, remedy: 'The file is damaged: export it again.' });

/** Bytes that are read at once. */
const SLICE = 4 * 2 ** 20;

/** Lines of a text file, without what ends them; a line that ends with \ goes on in the next one. */
export async function* textLines(
  source: { readonly size: number; read(at: number, length: number): Promise<Uint8Array> },
  from = 0,
): AsyncGenerator<string[]> {
  let rest = '';
  const decoder = new TextDecoder('latin1');
  for (let at = from; at < source.size; at += SLICE) {
    const text = rest + decoder.decode(await source.read(at, Math.min(SLICE, source.size - at)));
    const lines = text.split('\n');
    rest = lines.pop() ?? '';
    if (rest.length > MOST_LINE)
      throw brokenMesh(`a line of more than ${MOST_LINE} characters`, 'a mesh as text, line by line');
    yield lines;
  }
  if (rest !== '') yield [rest];
}
const MOST_LINE = 1 << 20;
