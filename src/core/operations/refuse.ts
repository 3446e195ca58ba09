import { LevelGridError } from '../base';

/** A step that can't stand where it stands. */
export const outOfPlace = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('step-order', { found, expected, remedy });
