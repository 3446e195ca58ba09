// The decoding tables of inflate (RFC 1951, 3.2): built from code lengths, looked up in inflate.ts.

export const LIT_LOOK: u32 = 12;
export const DIST_LOOK: u32 = 8;
/** Entries of the literal table: the first look, then second tables of at most 2^(15 − 11) for each of 286 codes. */
export const LIT_ENTRIES: usize = (1 << 12) + 286 * 32;
export const DIST_ENTRIES: usize = (1 << 8) + 30 * 128;
/** Bytes that building a table needs to work in. */
export const BUILD_ROOM: usize = 128 + 640;

/*
 * An entry (u32): bits 0–5 how many bits it consumes, 6–7 its kind.
 *   0 literals: bit 8 set for two of them; 16–31 the bytes
 *   1 length or distance: 8–12 bits of the code alone, 16–31 the base; the rest of the consumed bits is the extra
 *   2 second table: 8–12 its bits, 16–31 where it begins
 *   3 end of block where bit 16 is set, else a code that does not exist
 */
export const KIND: u32 = 0xc0;
export const K_LENGTH: u32 = 0x40;
export const K_TABLE: u32 = 0x80;
const K_END: u32 = 0xc0 | 0x10000;
const K_NONE: u32 = 0xc0;

/** Base and extra bits of length codes 257–285 and distance codes 0–29 (RFC 1951, 3.2.5). */
const LENGTH_BASE = memory.data<u16>([3, 4, 5, 6, 7, 8, 9, 10, 11, 13, 15, 17, 19, 23, 27, 31, 35, 43, 51, 59, 67, 83, 99, 115, 131, 163, 195, 227, 258]);
const LENGTH_EXTRA = memory.data<u8>([0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 5, 5, 0]);
const DIST_BASE = memory.data<u16>([1, 2, 3, 4, 5, 7, 9, 13, 17, 25, 33, 49, 65, 97, 129, 193, 257, 385, 513, 769, 1025, 1537, 2049, 3073, 4097, 6145, 8193, 12289, 16385, 24577]);
const DIST_EXTRA = memory.data<u8>([0, 0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7, 8, 8, 9, 9, 10, 10, 11, 11, 12, 12, 13, 13]);
/** Order in which the lengths of the code length code are stored. */
export const ORDER = memory.data<u8>([16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15]);

/** What a code of the literal (0), distance (1) or code length (2) alphabet stands for, before its code is known. */
function meaning(alphabet: i32, symbol: u32, length: u32): u32 {
  if (alphabet == 2) return length | (symbol << 16);
  if (alphabet == 1) {
    if (symbol > 29) return K_NONE | length;
    return (length + load<u8>(DIST_EXTRA + symbol)) | K_LENGTH | (length << 8) | (<u32>load<u16>(DIST_BASE + (symbol << 1)) << 16);
  }
  if (symbol < 256) return length | (symbol << 16);
  if (symbol == 256) return length | K_END;
  if (symbol > 285) return K_NONE | length;
  const s = symbol - 257;
  return (length + load<u8>(LENGTH_EXTRA + s)) | K_LENGTH | (length << 8) | (<u32>load<u16>(LENGTH_BASE + (s << 1)) << 16);
}

/**
 * Builds a decoding table from code lengths (one byte each). False for lengths that are no complete prefix code; one
 * lone code of one bit, or no distance code at all, is allowed, as the format's writers use it.
 */
export function build(counts: usize, table: usize, lengths: usize, symbols: u32, alphabet: i32, look: u32): bool {
  const places = counts + 64;
  const sorted = counts + 128;
  memory.fill(counts, 0, 64);
  for (let s: u32 = 0; s < symbols; s++) {
    const slot = counts + (<usize>load<u8>(lengths + s) << 2);
    store<u32>(slot, load<u32>(slot) + 1);
  }
  let left: i32 = 1;
  let place: u32 = 0;
  let longest: u32 = 0;
  for (let l: u32 = 1; l < 16; l++) {
    const n = load<u32>(counts + (<usize>l << 2));
    left = (left << 1) - <i32>n;
    if (left < 0) return false;
    store<u32>(places + (<usize>l << 2), place);
    place += n;
    if (n > 0) longest = l;
  }
  if (left > 0 && (alphabet == 2 || longest > 1)) return false;
  for (let s: u32 = 0; s < symbols; s++) {
    const length: u32 = load<u8>(lengths + s);
    if (length == 0) continue;
    const slot = places + (<usize>length << 2);
    const at = load<u32>(slot);
    store<u16>(sorted + (<usize>at << 1), s);
    store<u32>(slot, at + 1);
  }
  // the table doubles with every length: what is known repeats, new codes take their places
  store<u32>(table, left > 0 ? K_NONE | 1 : 0);
  const second = longest > look ? longest - look : 0;
  let free: u32 = 1 << look;
  let next = sorted;
  let code: u32 = 0;
  for (let l: u32 = 1; l <= max(longest, look); l++) {
    if (l <= look) memory.copy(table + (<usize>4 << (l - 1)), table, <usize>4 << (l - 1));
    code <<= 1;
    for (let n = load<u32>(counts + (<usize>l << 2)); n > 0; n--) {
      const entry = meaning(alphabet, load<u16>(next), l);
      next += 2;
      // codes are read from the low bit on: turn them round
      let c = code++;
      c = ((c & 0x5555) << 1) | ((c >> 1) & 0x5555);
      c = ((c & 0x3333) << 2) | ((c >> 2) & 0x3333);
      c = ((c & 0x0f0f) << 4) | ((c >> 4) & 0x0f0f);
      c = (((c & 0xff) << 8) | (c >> 8)) >> (16 - l);
      if (l <= look) {
        store<u32>(table + (<usize>c << 2), entry);
        continue;
      }
      const head = table + (<usize>(c & ((1 << look) - 1)) << 2);
      let link = load<u32>(head);
      if (link == 0) {
        link = look | K_TABLE | (second << 8) | (free << 16);
        store<u32>(head, link);
        free += 1 << second;
      }
      const begin = link >> 16;
      const rest = entry - look - ((entry & KIND) == K_LENGTH ? look << 8 : 0);
      for (let i = c >> look; i < 1 << second; i += 1 << (l - look)) store<u32>(table + (<usize>(begin + i) << 2), rest);
    }
  }
  return true;
}

/** Joins two short literals into one entry wherever both their codes fit into one look. */
export function pair(table: usize): void {
  for (let i: i32 = (1 << LIT_LOOK) - 1; i >= 0; i--) {
    const slot = table + (<usize>i << 2);
    const a = load<u32>(slot);
    // the lower entry is still a single one: this loop goes downwards
    const b = load<u32>(table + (<usize>(i >> (a & 31)) << 2));
    const length = (a & 63) + (b & 63);
    // no branches: which entries pair is as good as random
    store<u32>(slot, select<u32>(length | 0x100 | (a & 0xff0000) | ((b & 0xff0000) << 8), a, (<i32>(((a | b) & KIND) == 0)) & (<i32>((b & 0x100) == 0)) & (<i32>(length <= LIT_LOOK))));
  }
}
