import type { Recipe } from '../../recipe';

/*
 * What the files of a recipe store for a height, written down a second time: as how many bits, and whether whole codes,
 * shares of the range or metres.
 */

export interface Stored {
  readonly bits: number;
  readonly type: 'uint' | 'float';
  readonly as: 'codes' | 'shares' | 'metres';
}

const WAYS: Readonly<Record<string, Stored>> = {
  u8: { bits: 8, type: 'uint', as: 'codes' },
  u16: { bits: 16, type: 'uint', as: 'codes' },
  f32: { bits: 32, type: 'float', as: 'metres' },
  'f32-share': { bits: 32, type: 'float', as: 'shares' },
};

/** Files of these formats hold floats only. */
const FLOATS_ONLY: readonly string[] = ['exr', 'asc'];

/** What is stored where the recipe does not say it: the target's usual way, 16 bits, or metres where there are floats only. */
export const storedBy = ({ output }: Pick<Recipe, 'output'>): Stored =>
  WAYS[output.encoding ?? (FLOATS_ONLY.includes(output.format) ? 'f32' : 'u16')]!;

/** Room for so many stored heights. */
export const roomFor = ({ type }: Pick<Stored, 'type'>, n: number): Uint16Array | Float32Array =>
  type === 'float' ? new Float32Array(n) : new Uint16Array(n);
