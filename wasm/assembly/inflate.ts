// Inflate (RFC 1951) as a stream. Reference in the tests: the platform's own inflater, over the same bytes.
//
// The state lies at one address: the fields below, then the two decoding tables, then room to build them. Input and
// output are windows that the caller slides; a call goes on until input runs short, the output window is full or the
// last block has ended. Decoding looks at 56 bits at least before each code, so a length, a distance and both their
// extra bits never need a second look.

import { BUILD_ROOM, DIST_ENTRIES, DIST_LOOK, K_LENGTH, K_TABLE, KIND, LIT_ENTRIES, LIT_LOOK, ORDER, build, pair } from './inflate-tables';

/** Fields of the state: u64 bits, then u32 each. */
const BITS: usize = 0;
const COUNT: usize = 8;
const MODE: usize = 12;
const LAST: usize = 16;
const STORED: usize = 20;
/** Results: input consumed, output reached (addresses). */
const IN_AT: usize = 24;
const OUT_AT: usize = 28;
const FIELDS: usize = 64;

const BLOCK_HEAD: u32 = 0;
const IN_STORED: u32 = 1;
const IN_CODES: u32 = 2;
const ENDED: u32 = 3;

/** Result of a call. */
const NEEDS_INPUT: i32 = 0;
const OUTPUT_FULL: i32 = 1;
const FINISHED: i32 = 2;
const DAMAGED: i32 = 3;
const CUT_SHORT: i32 = 4;

const LITERALS: usize = FIELDS;
const DISTANCES: usize = LITERALS + LIT_ENTRIES * 4;
const LENGTHS: usize = DISTANCES + DIST_ENTRIES * 4;
const COUNTS: usize = LENGTHS + 384;
const SIZE: usize = COUNTS + BUILD_ROOM;

/** Bytes of state. */
export function inflateState(): usize {
  return SIZE;
}

export function inflateStart(state: usize): void {
  memory.fill(state, 0, FIELDS);
}

/**
 * Goes on inflating. Input from `input` to `inputEnd` (64 readable bytes behind it; zeros where `final`), output from
 * `out` while at least 320 bytes are left before `outEnd`; nothing before `base` may be copied. Positions reached are
 * left in the state. Unless `final`, the last 704 bytes of input wait for more.
 */
export function inflateRun(state: usize, input: usize, inputEnd: usize, final: i32, out: usize, outEnd: usize, base: usize): i32 {
  let bits = load<u64>(state, BITS);
  let count: u64 = load<u32>(state, COUNT);
  let mode = load<u32>(state, MODE);
  let result: i32 = NEEDS_INPUT;
  const lits = state + LITERALS;
  const dists = state + DISTANCES;
  const outSafe = outEnd - 320;
  const codesSafe = final ? inputEnd + 16 : inputEnd - 24;
  const headSafe = final ? inputEnd + 16 : inputEnd - 704;
  if (!final && inputEnd < input + 704 && mode != IN_STORED) return keep(state, bits, count, mode, input, out, NEEDS_INPUT);

  while (true) {
    if (mode == BLOCK_HEAD) {
      if (load<u32>(state, LAST)) {
        mode = ENDED;
        result = FINISHED;
        break;
      }
      if (input > headSafe) break;
      bits |= load<u64>(input) << count;
      input += <usize>((63 - count) >> 3);
      count |= 56;
      store<u32>(state, <u32>(bits & 1), LAST);
      const type = <u32>(bits >> 1) & 3;
      bits >>= 3;
      count -= 3;
      if (type == 3) {
        result = beyond(final, input, count, inputEnd) ? CUT_SHORT : DAMAGED;
        break;
      }
      if (type == 0) {
        // whole bytes that were looked at go back to the input
        const skip = count & 7;
        bits >>= skip;
        count -= skip;
        input -= <usize>(count >> 3);
        bits = 0;
        count = 0;
        if (input + 4 > inputEnd) {
          result = CUT_SHORT;
          break;
        }
        const length: u32 = load<u16>(input);
        if ((length ^ 0xffff) != <u32>load<u16>(input, 2)) {
          result = beyond(final, input, count, inputEnd) ? CUT_SHORT : DAMAGED;
          break;
        }
        input += 4;
        store<u32>(state, length, STORED);
        mode = IN_STORED;
        continue;
      }
      const lengths = state + LENGTHS;
      if (type == 1) {
        memory.fill(lengths, 8, 144);
        memory.fill(lengths + 144, 9, 112);
        memory.fill(lengths + 256, 7, 24);
        memory.fill(lengths + 280, 8, 8);
        memory.fill(lengths + 288, 5, 32);
        build(state + COUNTS, lits, lengths, 288, 0, LIT_LOOK);
        build(state + COUNTS, dists, lengths + 288, 32, 1, DIST_LOOK);
      } else {
        const nLit = (<u32>bits & 31) + 257;
        const nDist = (<u32>(bits >> 5) & 31) + 1;
        const nCode = (<u32>(bits >> 10) & 15) + 4;
        bits >>= 14;
        count -= 14;
        if (nLit > 286 || nDist > 30) {
          result = beyond(final, input, count, inputEnd) ? CUT_SHORT : DAMAGED;
          break;
        }
        memory.fill(lengths, 0, 19);
        for (let i: u32 = 0; i < nCode; i++) {
          bits |= load<u64>(input) << count;
          input += <usize>((63 - count) >> 3);
          count |= 56;
          store<u8>(lengths + load<u8>(ORDER + i), <u32>bits & 7);
          bits >>= 3;
          count -= 3;
        }
        // the distance table's place serves for the code length code, 7 bits at most
        if (!build(state + COUNTS, dists, lengths, 19, 2, 7)) {
          result = beyond(final, input, count, inputEnd) ? CUT_SHORT : DAMAGED;
          break;
        }
        let at: u32 = 0;
        const all = nLit + nDist;
        while (at < all && input <= inputEnd + 16) {
          bits |= load<u64>(input) << count;
          input += <usize>((63 - count) >> 3);
          count |= 56;
          const e = load<u32>(dists + ((<usize>bits & 127) << 2));
          bits >>= <u64>(e & 63);
          count -= <u64>(e & 63);
          const symbol = e >> 16;
          if (symbol < 16) {
            store<u8>(lengths + at++, symbol);
            continue;
          }
          let times: u32;
          let value: u32 = 0;
          if (symbol == 16) {
            if (at == 0) break;
            value = load<u8>(lengths + at - 1);
            times = 3 + (<u32>bits & 3);
            bits >>= 2;
            count -= 2;
          } else if (symbol == 17) {
            times = 3 + (<u32>bits & 7);
            bits >>= 3;
            count -= 3;
          } else {
            times = 11 + (<u32>bits & 127);
            bits >>= 7;
            count -= 7;
          }
          if (at + times > all) break;
          memory.fill(lengths + at, <u8>value, times);
          at += times;
        }
        if (beyond(final, input, count, inputEnd)) {
          result = CUT_SHORT;
          break;
        }
        if (at < all || load<u8>(lengths + 256) == 0 || !build(state + COUNTS, lits, lengths, nLit, 0, LIT_LOOK) || !build(state + COUNTS, dists, lengths + nLit, nDist, 1, DIST_LOOK)) {
          result = DAMAGED;
          break;
        }
      }
      pair(lits);
      mode = IN_CODES;
      continue;
    }

    if (mode == IN_STORED) {
      let left = load<u32>(state, STORED);
      if (out > outSafe) {
        result = OUTPUT_FULL;
        break;
      }
      const n = min(left, min(<u32>(inputEnd > input ? inputEnd - input : 0), <u32>(outSafe + 1 - out)));
      memory.copy(out, input, n);
      out += n;
      input += n;
      left -= n;
      store<u32>(state, left, STORED);
      if (left == 0) {
        mode = BLOCK_HEAD;
        continue;
      }
      if (input < inputEnd) {
        result = OUTPUT_FULL;
        break;
      }
      result = final ? CUT_SHORT : NEEDS_INPUT;
      break;
    }

    if (mode == ENDED) {
      result = FINISHED;
      break;
    }

    // codes: as many as fit
    const mask: u64 = (1 << LIT_LOOK) - 1;
    let stop: i32 = -1;
    while (true) {
      if (input > codesSafe) {
        stop = NEEDS_INPUT;
        break;
      }
      if (out > outSafe) {
        stop = OUTPUT_FULL;
        break;
      }
      bits |= load<u64>(input) << count;
      input += <usize>((63 - count) >> 3);
      count |= 56;
      let e = load<u32>(lits + ((<usize>(bits & mask)) << 2));
      // up to four looks of 11 bits fit into what was loaded
      if ((e & KIND) == 0) {
        store<u16>(out, e >> 16);
        out += 1 + ((e >> 8) & 1);
        bits >>= <u64>e;
        count -= <u64>(e & 63);
        e = load<u32>(lits + ((<usize>(bits & mask)) << 2));
        if ((e & KIND) == 0) {
          store<u16>(out, e >> 16);
          out += 1 + ((e >> 8) & 1);
          bits >>= <u64>e;
          count -= <u64>(e & 63);
          e = load<u32>(lits + ((<usize>(bits & mask)) << 2));
          if ((e & KIND) == 0) {
            store<u16>(out, e >> 16);
            out += 1 + ((e >> 8) & 1);
            bits >>= <u64>e;
            count -= <u64>(e & 63);
            e = load<u32>(lits + ((<usize>(bits & mask)) << 2));
            if ((e & KIND) == 0) {
              store<u16>(out, e >> 16);
              out += 1 + ((e >> 8) & 1);
              bits >>= <u64>e;
              count -= <u64>(e & 63);
              continue;
            }
          }
        }
        bits |= load<u64>(input) << count;
        input += <usize>((63 - count) >> 3);
        count |= 56;
      }
      if ((e & KIND) == K_TABLE) {
        bits >>= LIT_LOOK;
        count -= LIT_LOOK;
        e = load<u32>(lits + ((<usize>(e >> 16) + (<usize>bits & ((1 << ((e >> 8) & 31)) - 1))) << 2));
        if ((e & KIND) == 0) {
          store<u8>(out++, e >> 16);
          bits >>= <u64>e;
          count -= <u64>(e & 63);
          continue;
        }
      }
      if ((e & KIND) != K_LENGTH) {
        bits >>= <u64>e;
        count -= <u64>(e & 63);
        stop = e & 0x10000 ? -2 : DAMAGED;
        break;
      }
      // in a second table the code's length counts from behind the first look
      const length = (e >> 16) + (<u32>(bits & ((<u64>1 << <u64>(e & 63)) - 1)) >> codeBits(e));
      bits >>= <u64>e;
      count -= <u64>(e & 63);
      let d = load<u32>(dists + ((<usize>bits & ((1 << DIST_LOOK) - 1)) << 2));
      if ((d & KIND) == K_TABLE) {
        bits >>= DIST_LOOK;
        count -= DIST_LOOK;
        d = load<u32>(dists + ((<usize>(d >> 16) + (<usize>bits & ((1 << ((d >> 8) & 31)) - 1))) << 2));
      }
      if ((d & KIND) != K_LENGTH) {
        bits >>= <u64>d;
        count -= <u64>(d & 63);
        stop = DAMAGED;
        break;
      }
      const distance: usize = (d >> 16) + (<u32>(bits & ((<u64>1 << <u64>(d & 63)) - 1)) >> codeBits(d));
      bits >>= <u64>d;
      count -= <u64>(d & 63);
      if (distance > out - base) {
        stop = DAMAGED;
        break;
      }
      out = copyMatch(out, distance, length);
    }
    // bits that were looked at but not used lie behind the end of a final input when it was cut short
    if (beyond(final, input, count, inputEnd)) {
      result = CUT_SHORT;
      break;
    }
    if (stop == -2) {
      mode = BLOCK_HEAD;
      continue;
    }
    result = stop;
    break;
  }
  return keep(state, bits, count, mode, input, out, result);
}

/** True where bits were used that lie behind the end of the last input: it was cut short, whatever those bits meant. */
// @ts-ignore: decorator
@inline
function beyond(final: i32, input: usize, count: u64, inputEnd: usize): bool {
  return final != 0 && input - <usize>(count >> 3) > inputEnd;
}

/** Bits of the code itself in an entry of kind 1; in a second table, of its rest. */
// @ts-ignore: decorator
@inline
function codeBits(e: u32): u32 {
  return (e >> 8) & 31;
}

function copyMatch(out: usize, distance: usize, length: u32): usize {
  let from = out - distance;
  const end = out + length;
  if (distance >= 16) {
    // whole vectors; up to 15 bytes too many, which the next output covers
    while (out < end) {
      v128.store(out, v128.load(from));
      out += 16;
      from += 16;
    }
    return end;
  }
  if (distance == 1) {
    memory.fill(out, load<u8>(from), length);
    return end;
  }
  while (out < end) store<u8>(out++, load<u8>(from++));
  return end;
}

/** Whole bytes that were looked at go back to the input: the caller may move it, and a stored block begins there. */
function keep(state: usize, bits: u64, count: u64, mode: u32, input: usize, out: usize, result: i32): i32 {
  const rest = count & 7;
  store<u64>(state, bits & ((<u64>1 << rest) - 1), BITS);
  store<u32>(state, <u32>rest, COUNT);
  store<u32>(state, mode, MODE);
  store<u32>(state, <u32>(input - <usize>(count >> 3)), IN_AT);
  store<u32>(state, <u32>out, OUT_AT);
  return result;
}
