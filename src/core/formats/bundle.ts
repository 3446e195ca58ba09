import { LevelGridError, parseJson, sideBySide, type ByteSource, type JsonKind } from '../base';
import * as z from 'zod';
import { begins } from './format';

/*
 * Several files that belong together, held as one: the first bytes say which, the files follow one after the other.
 * It is how a browser keeps a height file with those that lie beside it; it is never written for anybody else.
 */
const MAGIC = [0x4c, 0x47, 0x42, 0x31] as const;
const MOST_PARTS = 4096;
const MOST_LIST = 2 ** 20;

const list = z
  .array(z.strictObject({ name: z.string().min(1).max(1024), size: z.int().min(0).max(Number.MAX_SAFE_INTEGER) }))
  .min(1)
  .max(MOST_PARTS);

/** The bytes in front of the files of a bundle, in this order. */
export function bundleHead(
  files: readonly { readonly name: string; readonly size: number }[],
): Uint8Array<ArrayBuffer> {
  const text = new TextEncoder().encode(JSON.stringify(files.map(({ name, size }) => ({ name, size }))));
  const out = new Uint8Array(8 + text.length);
  out.set(MAGIC);
  new DataView(out.buffer).setUint32(4, text.length);
  out.set(text, 8);
  return out;
}

const LIST: JsonKind = {
  words: 'list of files',
  code: 'corrupt',
  limits: { length: MOST_LIST, depth: 4 },
  remedy: 'Bring the files in again.',
};

/** The files of a bundle, which know each other as lying side by side; of any other source, itself alone. */
export async function partsOf(source: ByteSource): Promise<readonly ByteSource[]> {
  if (source.parts) return source.parts;
  const head = await source.read(0, 8);
  if (!begins(head, ...MAGIC) || head.length < 8) return [source];
  const length = new DataView(head.buffer, head.byteOffset).getUint32(4);
  if (length > MOST_LIST) throw torn(source);
  const text = new TextDecoder().decode(await source.read(8, length));
  const files = list.safeParse(parseJson(text, LIST, source.name));
  if (!files.success) throw torn(source);
  let at = 8 + length;
  const parts = files.data.map(({ name, size }) => {
    const part = partOf(source, name, at, size);
    at += size;
    return part;
  });
  if (at !== source.size) throw torn(source);
  return sideBySide(parts);
}

const torn = (source: ByteSource): LevelGridError =>
  new LevelGridError('corrupt', {
    file: source.name,
    found: 'a list of files that does not fit what follows it',
    expected: 'the files as they were brought in',
    remedy: 'Bring the files in again.',
  });

function partOf(source: ByteSource, name: string, from: number, size: number): ByteSource {
  return {
    name,
    size,
    read: (offset, length) => source.read(from + offset, Math.max(0, Math.min(length, size - offset))),
    ...(source.unchanged ? { unchanged: () => source.unchanged?.() ?? Promise.resolve() } : {}),
  };
}
