import type { ByteSource } from '../../base';
import { brokenMesh, GeometryBuilder, textLines, type Geometry } from './geometry';

/*
 * Own readers for meshes, where packages for display exist: those keep positions in single precision, which at a survey's
 * coordinates is centimetres, merge or split vertices, and don't say where a file is damaged.
 */

/** OBJ: vertices and faces of any number of corners; everything else of it says nothing of the ground. */
export async function readObj(source: ByteSource): Promise<Geometry> {
  const builder = new GeometryBuilder();
  let number = 0;
  let pending = '';
  for await (const lines of textLines(source))
    for (const raw of lines) {
      number++;
      let line = raw.trim();
      if (line.endsWith('\\')) {
        pending += `${line.slice(0, -1)} `;
        continue;
      }
      if (pending !== '') {
        line = pending + line;
        pending = '';
      }
      const kind = line.charCodeAt(0);
      const blank = line.charCodeAt(1);
      if (blank !== 32 && blank !== 9) continue;
      if (kind === 118) vertexOf(builder, line, number);
      else if (kind === 102) faceOf(builder, line, number);
    }
  return builder.result(null);
}

function vertexOf(builder: GeometryBuilder, line: string, number: number): void {
  const [, x, y, z] = line.split(/\s+/);
  const [a, b, c] = [Number(x), Number(y), Number(z)];
  // what is no number at all is damage; a number that is not finite is told apart later
  if (z === undefined || isWord(x, a) || isWord(y, b) || isWord(z, c))
    throw brokenMesh(`"${line.slice(0, 60)}" in line ${number}`, 'v and three numbers');
  builder.vertex(a, b, c);
}

const isWord = (text: string | undefined, value: number): boolean =>
  value !== value && !/^[+-]?(nan|inf|infinity)/i.test(text ?? '');

function faceOf(builder: GeometryBuilder, line: string, number: number): void {
  const corners: number[] = [];
  for (const word of line.split(/\s+/).slice(1)) {
    if (word.startsWith('#')) break;
    const index = parseInt(word, 10);
    // counted from 1, or backwards from the last vertex
    const corner = index < 0 ? builder.vertices + index : index - 1;
    if (!Number.isInteger(corner) || corner < 0)
      throw brokenMesh(`"${line.slice(0, 60)}" in line ${number}`, 'f and the numbers of vertices');
    corners.push(corner);
  }
  if (corners.length < 3) throw brokenMesh(`${corners.length} corners in line ${number}`, 'a face of three at least');
  builder.polygon(corners);
}
