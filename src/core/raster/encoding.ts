import type { MapPlace } from './types';

/** Ways of storing heights in a written file. */
export const ENCODING_IDS = ['u16', 'u8', 'f32', 'f32-share'] as const;
export type EncodingId = (typeof ENCODING_IDS)[number];

/** What a height is in a file. */
export interface Encoding {
  readonly id: EncodingId;
  readonly bits: 8 | 16 | 32;
  readonly sampleType: 'uint' | 'float';
  /**
   * What is stored: whole codes from 0 to a highest one, shares of the height range from 0 to 1, or the elevation itself
   * in metres.
   */
  readonly stores: 'codes' | 'shares' | 'metres';
  /** In a few plain words. */
  readonly words: string;
}

/** Stored heights of one file, row by row: whole codes, or floats. */
export type Codes = Uint16Array | Float32Array;

export const ENCODINGS: { readonly [K in EncodingId]: Encoding } = {
  u16: { id: 'u16', bits: 16, sampleType: 'uint', stores: 'codes', words: '16 bits, whole steps' },
  u8: { id: 'u8', bits: 8, sampleType: 'uint', stores: 'codes', words: '8 bits, whole steps' },
  f32: { id: 'f32', bits: 32, sampleType: 'float', stores: 'metres', words: '32-bit floats, in metres' },
  'f32-share': { id: 'f32-share', bits: 32, sampleType: 'float', stores: 'shares', words: '32-bit floats, 0 to 1' },
};

/** Room for `n` stored heights. Codes of 8 bits are kept as those of 16 until they are written. */
export const roomFor = ({ stores }: Pick<Encoding, 'stores'>, n: number): Codes =>
  stores === 'codes' ? new Uint16Array(n) : new Float32Array(n);

/** Formats that height files are written in. */
export const FILE_FORMATS = ['png', 'raw', 'tiff', 'exr', 'asc'] as const;
export type FileFormat = (typeof FILE_FORMATS)[number];

/** Formats whose samples stand as they are, or packed: as it is chosen. */
export const PACKED: readonly FileFormat[] = ['tiff', 'exr'];

/** Whether files of a format say where their ground lies on a map: some can't where rows don't run from west to east. */
export function saysPlace(format: FileFormat, { across, down }: Pick<MapPlace, 'across' | 'down'>): boolean {
  return format === 'tiff' || (format === 'asc' && isUpright({ across, down }));
}

/** Rows run from west to east, the first in the north. */
export const isUpright = ({ across, down }: Pick<MapPlace, 'across' | 'down'>): boolean =>
  across[0] > 0 && across[1] === 0 && down[0] === 0 && down[1] < 0;

/** What each format can hold, the usual way first. */
export const HELD_BY: { readonly [F in FileFormat]: readonly EncodingId[] } = {
  png: ['u16', 'u8'],
  raw: ['u16', 'u8', 'f32', 'f32-share'],
  tiff: ['u16', 'f32', 'f32-share'],
  exr: ['f32', 'f32-share'],
  asc: ['f32'],
};
