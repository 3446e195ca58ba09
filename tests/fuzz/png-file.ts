import zlib from 'node:zlib';
import type { Chance } from './chance';

/** The parts of a PNG before they are put together. */
export interface Part {
  type: string;
  data: Uint8Array;
}

const SIGNATURE = Uint8Array.of(137, 80, 78, 71, 13, 10, 26, 10);
const SAMPLES = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 } as const;
const DEPTHS = { 0: [1, 2, 4, 8, 16], 2: [8, 16], 3: [1, 2, 4, 8], 4: [8, 16], 6: [8, 16] } as const;
/** First column and row, and steps, of the seven passes of an interlaced picture. */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
] as const;

export function assembled(parts: readonly Part[], chance: Chance | null): Uint8Array {
  const out: Uint8Array[] = [SIGNATURE];
  for (const { type, data } of parts) {
    const chunk = new Uint8Array(12 + data.length);
    const view = new DataView(chunk.buffer);
    view.setUint32(0, data.length);
    for (let i = 0; i < 4; i++) chunk[4 + i] = type.charCodeAt(i);
    chunk.set(data, 8);
    // a checksum that is wrong now and then
    view.setUint32(8 + data.length, zlib.crc32(chunk.subarray(4, 8 + data.length)) ^ (chance?.in(60) ? 1 : 0));
    out.push(chunk);
  }
  return new Uint8Array(Buffer.concat(out));
}

/** A right picture of any kind that PNG knows, of a few samples a side, with its pixels filtered by chance. */
export function anyPicture(chance: Chance): Part[] {
  const colour = chance.one([0, 0, 0, 2, 3, 4, 6] as const);
  const depth = chance.one(DEPTHS[colour] as readonly number[]);
  const width = chance.whole(1, 19);
  const height = chance.whole(1, 19);
  const interlaced = chance.in(3);
  const header = new Uint8Array(13);
  new DataView(header.buffer).setUint32(0, width);
  new DataView(header.buffer).setUint32(4, height);
  header.set([depth, colour, 0, 0, interlaced ? 1 : 0], 8);
  const entries = colour === 3 ? chance.whole(1, 2 ** depth) : 0;
  const bits = SAMPLES[colour] * depth;
  const rows: Uint8Array[] = [];
  for (const [x0, y0, dx, dy] of interlaced ? PASSES : ([[0, 0, 1, 1]] as const)) {
    const w = Math.ceil((width - x0) / dx);
    const h = Math.ceil((height - y0) / dy);
    if (w <= 0 || h <= 0) continue;
    for (let y = 0; y < h; y++) {
      const row = chance.bytes(1 + Math.ceil((w * bits) / 8));
      row[0] = chance.whole(0, 4);
      // a filtered index may be any byte: plain ones stay inside the palette
      if (colour === 3 && entries < 2 ** depth) row.fill(0);
      rows.push(row);
    }
  }
  const data = new Uint8Array(zlib.deflateSync(Buffer.concat(rows), { level: chance.whole(0, 9) }));
  const parts: Part[] = [{ type: 'IHDR', data: header }];
  if (chance.in(4)) parts.push({ type: 'tEXt', data: Uint8Array.from(Buffer.from('Title\0Kettle Tarn')) });
  if (colour === 3) parts.push({ type: 'PLTE', data: chance.bytes(3 * entries) });
  if (chance.in(5) && (colour === 0 || colour === 2 || colour === 3)) {
    const mask = 2 ** depth - 1;
    const codes = Array.from({ length: colour === 2 ? 3 : 1 }, () => chance.whole(0, mask));
    parts.push({
      type: 'tRNS',
      data:
        colour === 3
          ? Uint8Array.from({ length: chance.whole(1, entries) }, () => chance.one([0, 128, 255]))
          : Uint8Array.from(codes.flatMap((c) => [c >> 8, c & 255])),
    });
  }
  for (let at = 0; at < data.length;) {
    const length = chance.in(2) ? data.length : chance.whole(1, data.length);
    parts.push({ type: 'IDAT', data: data.subarray(at, at + length) });
    at += length;
  }
  parts.push({ type: 'IEND', data: new Uint8Array(0) });
  return parts;
}

/** The same with something wrong in it, or nothing. */
export function bentPicture(chance: Chance): Uint8Array {
  const parts = anyPicture(chance);
  if (chance.in(4)) return assembled(parts, null);
  for (let n = chance.one([1, 1, 1, 2]); n > 0; n--) {
    const at = chance.whole(0, parts.length - 1);
    const part = parts[at]!;
    const copy = (): Uint8Array<ArrayBuffer> => new Uint8Array(part.data);
    switch (chance.whole(0, 8)) {
      case 0:
        parts.splice(at, 1);
        break;
      case 1:
        parts.splice(chance.whole(0, parts.length), 0, { type: part.type, data: copy() });
        break;
      case 2:
        parts.push(parts.splice(at, 1)[0]!);
        break;
      case 3:
        part.type = chance.one(['IHDR', 'PLTE', 'IDAT', 'IEND', 'tRNS', 'DELT', 'abCd', '\u0000ab!']);
        break;
      case 4:
        part.data = part.data.subarray(0, chance.whole(0, part.data.length));
        break;
      case 5: {
        // a header of another picture
        const data = copy();
        if (data.length > 0) data[chance.whole(0, data.length - 1)] = chance.whole(0, 255);
        part.data = data;
        break;
      }
      case 6:
        part.data = new Uint8Array(Buffer.concat([part.data, chance.bytes(chance.whole(1, 40))]));
        break;
      case 7:
        parts.splice(at, 0, {
          type: chance.one(['tIME', 'DELT', 'gAMA', 'sBIT']),
          data: chance.bytes(chance.whole(0, 9)),
        });
        break;
      default:
        part.data = chance.bytes(part.data.length);
    }
    if (parts.length === 0) break;
  }
  const bytes = assembled(parts, chance);
  if (chance.in(6)) return bytes.subarray(0, chance.whole(0, bytes.length));
  if (chance.in(6) && bytes.length > 0) bytes[chance.whole(0, bytes.length - 1)]! ^= 1 << chance.whole(0, 7);
  return bytes;
}
