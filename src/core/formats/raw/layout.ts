import { LevelGridError } from '../../base';
import type { ByteOrder, SampleType, StoredSamples } from '../../raster';

export const RAW_TYPES = ['u8', 'i8', 'u16', 'i16', 'u32', 'i32', 'f32', 'f64'] as const;
export type RawType = (typeof RAW_TYPES)[number];

/** Everything that a headerless file does not say about itself. */
export interface RawLayout {
  readonly width: number;
  readonly height: number;
  readonly type: RawType;
  readonly byteOrder: ByteOrder;
  /** Bytes in front of the first sample. */
  readonly skip: number;
}

/** Endings under which headerless height files go. */
export const RAW_ENDINGS = ['raw', 'r16', 'r8', 'r32', 'bin', 'dat'] as const;

export const RAW_MAX_SIDE = 65536;

export function rawSampleBytes(type: RawType): 1 | 2 | 4 | 8 {
  return (Number(type.slice(1)) / 8) as 1 | 2 | 4 | 8;
}

export function rawSampleType(type: RawType): SampleType {
  return type.startsWith('u') ? 'uint' : type.startsWith('i') ? 'int' : 'float';
}

/** Bytes in the machine's order as samples; `bytes` must start on a multiple of the sample size. */
export function viewSamples(type: RawType, bytes: Uint8Array): StoredSamples {
  const { buffer, byteOffset } = bytes;
  const n = bytes.length / rawSampleBytes(type);
  switch (type) {
    case 'u8':
      return new Uint8Array(buffer, byteOffset, n);
    case 'i8':
      return new Int8Array(buffer, byteOffset, n);
    case 'u16':
      return new Uint16Array(buffer, byteOffset, n);
    case 'i16':
      return new Int16Array(buffer, byteOffset, n);
    case 'u32':
      return new Uint32Array(buffer, byteOffset, n);
    case 'i32':
      return new Int32Array(buffer, byteOffset, n);
    case 'f32':
      return new Float32Array(buffer, byteOffset, n);
    case 'f64':
      return new Float64Array(buffer, byteOffset, n);
  }
}

/** Bytes of a file with this layout. */
export function bytesOfRaw({ width, height, type, skip }: RawLayout): number {
  return width * height * rawSampleBytes(type) + skip;
}

/** Refuses a layout that the file's length contradicts. */
export function checkRawLayout(layout: RawLayout, size: number): void {
  const { width, height, type, skip } = layout;
  const needed = bytesOfRaw(layout);
  if (needed === size) return;
  throw new LevelGridError('raw-length', {
    found: `${size} bytes`,
    expected: `${needed} for ${width} × ${height} samples of ${rawSampleBytes(type)} bytes${skip ? ` after ${skip} bytes of header` : ''}`,
    remedy:
      size > needed
        ? 'Check width, height and sample type; a header would have to be skipped.'
        : 'Check width, height and sample type, or whether the file is cut short.',
  });
}

/** A layout as people say it: 1536 × 1536, 16 bits unsigned, little-endian. */
export function layoutText({ width, height, type, byteOrder, skip }: RawLayout): string {
  const words = { uint: 'unsigned', int: 'signed', float: 'float' }[rawSampleType(type)];
  const bytes = rawSampleBytes(type);
  const order = bytes > 1 ? `, ${byteOrder}-endian` : '';
  return `${width} × ${height}, ${bytes * 8} bits ${words}${order}${skip > 0 ? `, after ${skip} bytes` : ''}`;
}

/** Parses `W,H,TYPE,ORDER[,SKIP]`, the way a layout is written on the command line. */
export function parseRawLayout(text: string): RawLayout {
  const [w = '', h = '', type = '', order = '', skip = '0', ...rest] = text.split(',').map((part) => part.trim());
  const whole = (part: string): boolean => /^\d+$/.test(part);
  if (
    rest.length > 0 ||
    !whole(w) ||
    !whole(h) ||
    !whole(skip) ||
    !(RAW_TYPES as readonly string[]).includes(type) ||
    !(order === 'little' || order === 'big') ||
    Number(w) < 1 ||
    Number(h) < 1 ||
    Number(w) > RAW_MAX_SIDE ||
    Number(h) > RAW_MAX_SIDE
  ) {
    throw new LevelGridError('usage', {
      found: `"${text}" as the layout of a RAW file`,
      expected: `WIDTH,HEIGHT,TYPE,ORDER or WIDTH,HEIGHT,TYPE,ORDER,SKIP with TYPE one of ${RAW_TYPES.join(' ')} and ORDER little or big`,
      remedy: 'Example: 1536,1536,u16,big',
    });
  }
  return { width: Number(w), height: Number(h), type: type as RawType, byteOrder: order, skip: Number(skip) };
}
