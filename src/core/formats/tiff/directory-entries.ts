export const ASCII = 2;
export const SHORT = 3;
export const LONG = 4;
export const DOUBLE = 12;
type Type = typeof ASCII | typeof SHORT | typeof LONG | typeof DOUBLE;
const BYTES: { readonly [T in Type]: number } = { [ASCII]: 1, [SHORT]: 2, [LONG]: 4, [DOUBLE]: 8 };

/** An entry of a directory: its tag, type and values. */
export type Entry = readonly [tag: number, type: Type, values: readonly number[]];

/** The directory begins behind the first eight bytes, and the values that do not fit into it behind it. */
const AT = 8;

const sizeOf = ([, type, values]: Entry): number => BYTES[type] * values.length;
const apart = (entry: Entry): number => (sizeOf(entry) > 4 ? sizeOf(entry) : 0);

/** Bytes of a head with such entries. */
export const headBytes = (entries: readonly Entry[]): number =>
  AT + 2 + 12 * entries.length + 4 + entries.reduce((sum, e) => sum + apart(e), 0);

/** All bytes of a TIFF (revision 6.0, low byte first) before its samples. Entries stand in the order of their tags. */
export function headWith(entries: readonly Entry[]): Uint8Array<ArrayBuffer> {
  const view = new DataView(new ArrayBuffer(headBytes(entries)));
  const put = (at: number, type: Type, values: readonly number[]): void =>
    values.forEach((value, i) => {
      if (type === ASCII) view.setUint8(at + i, value);
      else if (type === SHORT) view.setUint16(at + 2 * i, value, true);
      else if (type === LONG) view.setUint32(at + 4 * i, value, true);
      else view.setFloat64(at + 8 * i, value, true);
    });
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, true);
  view.setUint32(4, AT, true);
  view.setUint16(AT, entries.length, true);
  let behind = AT + 2 + 12 * entries.length + 4;
  entries.forEach((entry, i) => {
    const [tag, type, values] = entry;
    const at = AT + 2 + 12 * i;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, values.length, true);
    if (apart(entry) === 0) put(at + 8, type, values);
    else {
      view.setUint32(at + 8, behind, true);
      put(behind, type, values);
      behind += apart(entry);
    }
  });
  return new Uint8Array(view.buffer);
}
