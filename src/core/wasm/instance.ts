import { WASM_BASE64 } from './wasm-bytes';

/** One sweep of a thin plate; see wasm/assembly/plate.ts. */
type PlateSweep = (
  surface: number,
  stored: number,
  flat: number,
  width: number,
  height: number,
  rows: number,
  share: number,
  below: number,
  above: number,
  lowest: number,
  highest: number,
) => void;

/** What wasm/assembly exports. Addresses and counts are whole numbers. */
interface Exports {
  freeFrom(): number;
  unfilter16(filtered: number, out: number, above: number, width: number, rows: number): number;
  swap16(from: number, to: number, count: number): void;
  filter16(codes: number, out: number, above: number, scratch: number, width: number, rows: number): void;
  interleave16(rows: number, stride: number, count: number, to: number, width: number, datum: number): void;
  interleave32(rows: number, stride: number, count: number, to: number, width: number): void;
  rowPass(outs: number, line: number, first: number, weights: number, taps: number, groups: number): void;
  columnPass(
    out: number,
    ring: number,
    ringRows: number,
    stride: number,
    start: number,
    weights: number,
    taps: number,
    width: number,
    low: number,
    high: number,
  ): void;
  interleaveCodes64(rows: number, stride: number, count: number, to: number, width: number, datum: number): number;
  interleaveHeights64(rows: number, stride: number, count: number, to: number, width: number): number;
  rowPass64(outs: number, line: number, first: number, weights: number, taps: number, width: number): void;
  rowPassAround64(
    outs: number,
    line: number,
    first: number,
    weights: number,
    taps: number,
    width: number,
    plane: number,
  ): void;
  columnPass64(
    out: number,
    ring: number,
    ringRows: number,
    stride: number,
    plane: number,
    start: number,
    weights: number,
    taps: number,
    low: number,
    high: number,
    least: number,
  ): void;
  quantise(
    from: number,
    to: number,
    count: number,
    scale: number,
    offset: number,
    highest: number,
    tally: number,
  ): void;
  statistics16(codes: number, count: number, seen: number, out: number): void;
  ground(
    data: number,
    width: number,
    rows: number,
    at: number,
    low: number,
    high: number,
    fine: number,
    classes: number,
    fineLow: number,
    fineScale: number,
    state: number,
  ): void;
  foldFloats(data: number, count: number, state: number): void;
  floatsAbove(data: number, count: number, datum: number): void;
  addPatterns(data: number, count: number, table: number, bits: number, most: number, state: number): number;
  plateSweep32: PlateSweep;
  plateSweep64: PlateSweep;
  halve16(from: number, to: number, width: number, pairs: number): void;
  squaresScratch(): number;
  squaresRow(
    above: number,
    below: number,
    down: number,
    side: number,
    count: number,
    ring: number,
    capacity: number,
    width: number,
    height: number,
    scratch: number,
    out: number,
  ): void;
  crcTables(tables: number): void;
  crc32(bytes: number, count: number, before: number, tables: number): number;
  adler32(bytes: number, count: number, before: number): number;
  tintedRelief(
    heights: number,
    width: number,
    height: number,
    out: number,
    ramp: number,
    low: number,
    tint: number,
    slopeX: number,
    slopeY: number,
    shaded: number,
    paper: number,
  ): void;
  compareCodes(
    codes: number,
    ground: number,
    width: number,
    table: number,
    unit: number,
    shift: number,
    lowest: number,
    highest: number,
    columns: number,
    cells: number,
    state: number,
  ): void;
  heightsOf16(codes: number, to: number, count: number, datum: number): void;
  compareGround(
    source: number,
    upper: number,
    lower: number,
    left: number,
    shares: number,
    from: number,
    to: number,
    share: number,
    unit: number,
    columns: number,
    cells: number,
    state: number,
  ): void;
  weighRow(
    samples: number,
    count: number,
    from: number,
    first: number,
    start: number,
    shares: number,
    vertices: number,
    sums: number,
    weights: number,
  ): void;
  addShare(into: number, row: number, share: number, count: number): void;
  doublesOfCodes(codes: number, to: number, count: number): void;
  doublesOfFloats(floats: number, to: number, count: number): void;
  endsOfCodes(codes: number, count: number, out: number): void;
  endsOfFloats(floats: number, count: number, out: number): void;
  sumBytes(at: number, count: number, bias: number): void;
  sum16(at: number, count: number): void;
  weave2(from: number, to: number, count: number): void;
  weave4(from: number, to: number, count: number): void;
  inflateState(): number;
  inflateStart(state: number): void;
  inflateRun(
    state: number,
    input: number,
    inputEnd: number,
    final: number,
    out: number,
    outEnd: number,
    base: number,
  ): number;
  deflateScratch(): number;
  deflatePiece(
    input: number,
    start: number,
    length: number,
    last: number,
    matching: number,
    target: number,
    scratch: number,
  ): number;
}

const PAGE = 65536;

/** One instance of the kernels with memory of its own, given out from the bottom up. */
export class Kernels {
  private readonly memory: WebAssembly.Memory;
  readonly run: Exports;
  private free: number;
  private bytes: Uint8Array;

  constructor(module: WebAssembly.Module) {
    this.memory = new WebAssembly.Memory({ initial: 2 });
    const abort = (): never => {
      throw new Error('kernel aborted');
    };
    this.run = new WebAssembly.Instance(module, { env: { memory: this.memory, abort } }).exports as unknown as Exports;
    this.free = (this.run.freeFrom() + 15) & ~15;
    this.bytes = new Uint8Array(this.memory.buffer);
  }

  /** Room for `size` bytes on a multiple of 16, with 64 bytes behind it that may be read. Not cleared. */
  take(size: number): number {
    const at = this.free;
    this.free = (at + size + 64 + 15) & ~15;
    const missing = this.free - this.memory.buffer.byteLength;
    if (missing > 0) {
      this.memory.grow(Math.ceil(missing / PAGE));
      this.bytes = new Uint8Array(this.memory.buffer);
    }
    return at;
  }

  /** Where the free memory begins; `release` gives everything behind such a mark back. */
  mark(): number {
    return this.free;
  }

  release(mark: number): void {
    this.free = mark;
  }

  /** The memory as bytes; taken anew after every `take`. */
  get u8(): Uint8Array {
    return this.bytes;
  }

  /** Copies an array in; the address. */
  put(array: ArrayBufferView): number {
    const at = this.take(array.byteLength);
    this.write(at, array);
    return at;
  }

  /** Copies an array to where room for it was taken. */
  write(at: number, array: ArrayBufferView): void {
    this.bytes.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), at);
  }

  /** A copy of `length` bytes on memory of its own. */
  copy(at: number, length: number): Uint8Array<ArrayBuffer> {
    return this.bytes.slice(at, at + length);
  }
}

/** Numbers that lie in the memory of kernels: `length` of them from byte `at` on. */
export interface KernelPlace {
  readonly kernels: Kernels;
  readonly at: number;
  readonly length: number;
}

/** Views of such numbers; not to be kept, since memory that grows takes them away. */
export const floatsAt = ({ kernels, at, length }: KernelPlace): Float32Array =>
  new Float32Array(kernels.u8.buffer, at, length);
export const codesAt = ({ kernels, at, length }: KernelPlace): Uint16Array =>
  new Uint16Array(kernels.u8.buffer, at, length);

let compiled: WebAssembly.Module | null | undefined;
let shared: Kernels | null = null;

/** The module, compiled once; null where WebAssembly or its SIMD is missing. */
function module(): WebAssembly.Module | null {
  if (compiled !== undefined) return compiled;
  try {
    compiled = new WebAssembly.Module(Uint8Array.from(atob(WASM_BASE64), (c) => c.charCodeAt(0)));
  } catch {
    compiled = null;
  }
  return compiled;
}

/** Kernels with memory of their own, for work that keeps state there; null where only the plain twins can run. */
export function freshKernels(): Kernels | null {
  const m = module();
  return m ? new Kernels(m) : null;
}

/** The kernels of this thread for work that keeps nothing; null where only the plain twins can run. */
export function sharedKernels(): Kernels | null {
  return (shared ??= freshKernels());
}
