import { LevelGridError, type ByteSource } from '../../base';
import { brokenMesh, GeometryBuilder, textLines, type Geometry } from './geometry';

/** Kinds of numbers by both of their names: bytes, and how one is read. */
const TYPES: Readonly<
  Record<string, readonly [bytes: number, read: (v: DataView, at: number, le: boolean) => number]>
> = Object.fromEntries(
  (
    [
      ['char', 'int8', 1, (v, at) => v.getInt8(at)],
      ['uchar', 'uint8', 1, (v, at) => v.getUint8(at)],
      ['short', 'int16', 2, (v, at, le) => v.getInt16(at, le)],
      ['ushort', 'uint16', 2, (v, at, le) => v.getUint16(at, le)],
      ['int', 'int32', 4, (v, at, le) => v.getInt32(at, le)],
      ['uint', 'uint32', 4, (v, at, le) => v.getUint32(at, le)],
      ['float', 'float32', 4, (v, at, le) => v.getFloat32(at, le)],
      ['double', 'float64', 8, (v, at, le) => v.getFloat64(at, le)],
    ] as [string, string, number, (v: DataView, at: number, le: boolean) => number][]
  ).flatMap(([a, b, bytes, read]) => [
    [a, [bytes, read]],
    [b, [bytes, read]],
  ]),
);

interface Property {
  readonly name: string;
  readonly type: string;
  /** Of a list: the type of its length. */
  readonly count: string | null;
}
interface Element {
  readonly name: string;
  readonly count: number;
  readonly properties: Property[];
}
interface Header {
  readonly format: 'ascii' | 'binary_little_endian' | 'binary_big_endian';
  readonly elements: readonly Element[];
  readonly start: number;
}

const MOST_HEADER = 65536;
/** Corners of one face, and numbers of one other list. */
const MOST_LIST = 65536;

/** PLY, binary in both byte orders or as text. */
export async function readPly(source: ByteSource): Promise<Geometry> {
  const header = await readHeader(source);
  const [vertices, faces] = ['vertex', 'face'].map((name) => header.elements.find((e) => e.name === name));
  if (!vertices || !['x', 'y', 'z'].every((n) => vertices.properties.some((p) => p.name === n && p.count === null)))
    throw brokenMesh('no vertices with x, y and z', 'an element "vertex" that has them');
  if (!faces?.properties.some(isCorners)) throw brokenMesh('no faces', 'an element "face" with a list of vertices');
  const builder = new GeometryBuilder(
    Math.min(vertices.count, source.size / 3),
    Math.min(2 * faces.count, source.size / 3),
  );
  if (header.format === 'ascii') await readText(source, header, builder);
  else await readBinary(source, header, builder);
  return builder.result(null);
}

const isCorners = ({ name, count }: Property): boolean => count !== null && /^vertex_(indices|index)$/.test(name);

async function readHeader(source: ByteSource): Promise<Header> {
  const text = new TextDecoder('latin1').decode(await source.read(0, MOST_HEADER));
  const end = /(^|\n)end_header[ \t]*\r?\n/.exec(text);
  if (!end) throw brokenMesh('a header without its end', `"end_header" within ${MOST_HEADER} bytes`);
  const lines = text.slice(0, end.index).split(/\r?\n/);
  const elements: Element[] = [];
  let format: string | undefined;
  lines.forEach((line, i) => {
    const words = line.trim().split(/\s+/);
    const bad = (): LevelGridError =>
      brokenMesh(`"${line.trim().slice(0, 60)}" in line ${i + 1}`, 'a line of a header');
    if (words[0] === 'format') format = words[1];
    else if (words[0] === 'element') {
      const count = Number(words[2]);
      if (!words[1] || !Number.isInteger(count) || count < 0) throw bad();
      // each takes a byte at least
      if (count > source.size) throw brokenMesh(`${count} of "${words[1]}"`, `no more than ${source.size} bytes hold`);
      elements.push({ name: words[1], count, properties: [] });
    } else if (words[0] === 'property') {
      const list = words[1] === 'list';
      const [type = '', name = ''] = list ? [words[3], words[4]] : [words[1], words[2]];
      const count = list ? (words[2] ?? '') : null;
      const element = elements.at(-1);
      if (!element || !(type in TYPES) || (count !== null && !(count in TYPES)) || name === '') throw bad();
      element.properties.push({ name, type, count });
    }
  });
  if (format !== 'ascii' && format !== 'binary_little_endian' && format !== 'binary_big_endian')
    throw brokenMesh(`the format "${(format ?? '').slice(0, 40)}"`, 'ascii, binary_little_endian or binary_big_endian');
  return { format, elements, start: end.index + end[0].length };
}

/** What becomes of one element that has been read. */
function taker(element: Element, builder: GeometryBuilder): (values: readonly (number | readonly number[])[]) => void {
  const at = (name: string): number => element.properties.findIndex((p) => p.name === name);
  if (element.name === 'vertex') {
    const [x, y, z] = [at('x'), at('y'), at('z')];
    return (values) => builder.vertex(values[x] as number, values[y] as number, values[z] as number);
  }
  if (element.name !== 'face') return () => undefined;
  const corners = element.properties.findIndex(isCorners);
  return (values) => {
    const list = values[corners] as readonly number[];
    if (list.some((v) => !Number.isInteger(v) || v < 0))
      throw brokenMesh(`a face of ${list.slice(0, 4).join(', ')}`, 'the numbers of vertices');
    builder.polygon(list);
  };
}

async function readText(source: ByteSource, { elements, start }: Header, builder: GeometryBuilder): Promise<void> {
  let which = 0;
  let done = 0;
  let take = elements[0] ? taker(elements[0], builder) : null;
  for await (const lines of textLines(source, start))
    for (const line of lines) {
      while (elements[which] && done === elements[which]!.count) {
        which++;
        done = 0;
        take = elements[which] ? taker(elements[which]!, builder) : null;
      }
      const element = elements[which];
      if (!element || !take) return;
      const text = line.trim();
      if (text === '') continue;
      const words = text.split(/\s+/);
      let at = 0;
      const next = (): number => {
        const word = words[at++];
        const value = Number(word);
        if (word === undefined || (value !== value && !/^[+-]?(nan|inf)/i.test(word)))
          throw brokenMesh(`"${text.slice(0, 60)}"`, `${element.name} ${done + 1} of ${element.count}`);
        return value;
      };
      take(
        element.properties.map((p) => (p.count === null ? next() : Array.from({ length: listLength(next()) }, next))),
      );
      done++;
    }
  const left = elements[which];
  if (left && done < left.count && (left.name === 'vertex' || left.name === 'face'))
    throw brokenMesh(`${done} of "${left.name}"`, `${left.count}, as its header says`);
}

function listLength(count: number): number {
  if (Number.isInteger(count) && count >= 0 && count <= MOST_LIST) return count;
  throw brokenMesh(`a list of ${count}`, `0 to ${MOST_LIST} numbers`);
}

/** Bytes that are read at once. */
const SLICE = 8 * 2 ** 20;

async function readBinary(source: ByteSource, header: Header, builder: GeometryBuilder): Promise<void> {
  const little = header.format === 'binary_little_endian';
  let bytes = new Uint8Array(0);
  let view = new DataView(bytes.buffer);
  let from = header.start;
  let at = 0;
  /** Sees to it that so many bytes lie ahead. */
  const need = async (count: number): Promise<void> => {
    from += at;
    at = 0;
    bytes = Uint8Array.from(await source.read(from, Math.min(Math.max(SLICE, count), source.size - from)));
    view = new DataView(bytes.buffer);
    if (bytes.length < count)
      throw new LevelGridError('truncated', {
        found: `the end of the file at byte ${source.size}`,
        expected: 'all vertices and faces that its header says',
        remedy: 'The file is cut short: copy or export it again.',
      });
  };
  for (const element of header.elements) {
    const take = taker(element, builder);
    const fields = element.properties.map(({ type, count }) => ({
      value: TYPES[type]!,
      count: count === null ? null : TYPES[count]!,
    }));
    const values: (number | number[])[] = fields.map((f) => (f.count ? [] : 0));
    for (let i = 0; i < element.count; i++) {
      for (let k = 0; k < fields.length; k++) {
        const { value, count } = fields[k]!;
        const [size, read] = value;
        if (!count) {
          if (at + size > bytes.length) await need(size);
          values[k] = read(view, at, little);
          at += size;
          continue;
        }
        if (at + count[0] > bytes.length) await need(count[0]);
        const length = listLength(count[1](view, at, little));
        at += count[0];
        if (at + length * size > bytes.length) await need(length * size);
        const list = values[k] as number[];
        list.length = length;
        for (let n = 0; n < length; n++, at += size) list[n] = read(view, at, little);
      }
      take(values);
    }
  }
}
