import { LevelGridError } from '../base';

/** Why a range of codes can't be taken of a file that holds none. */
export const NO_CODES = new LevelGridError('calibration', {
  found: 'the range of the codes asked for, of a file that holds metres',
  expected: 'a file of codes, whose lowest and highest have an elevation',
  remedy: 'Take the range of the source or of the ground, or type it.',
});

/** Why vertices without a height are not written. */
export function voidRefusal(count: number, file: string): LevelGridError {
  return new LevelGridError('voids', {
    file,
    found: `${count} ${count === 1 ? 'vertex' : 'vertices'} without a height`,
    expected: 'a height everywhere, or an elevation that vertices without one get',
    remedy: 'Say which elevation voids get, or choose ground without voids.',
  });
}
