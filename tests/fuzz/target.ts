import { LevelGridError } from '../../src/core/base';
import type { Chance } from './chance';

/** What is fed with bent input. */
export interface Target<T> {
  readonly name: string;
  make(chance: Chance): T;
  /** Throws where something is wrong: a foreign error, a result that contradicts itself or another reader. */
  check(input: T, count: (what: string) => void): Promise<'accepted' | 'refused'>;
}

/** An error that says what is wrong with the input; anything else is a fault of the program, and is thrown again. */
export function ours(reason: unknown): void {
  if (!(reason instanceof LevelGridError) || reason.code === 'internal') throw reason;
  for (const said of [reason.found, reason.expected, reason.remedy]) {
    // what is quoted is the input's own
    const part = said.replace(/"[^"]*"/g, '""').replace('NaN or Infinity, which', '');
    if (part === '' || /undefined|NaN|\[object/.test(part) || part.length > 600)
      throw new Error(`a message that says nothing: ${reason.message.slice(0, 300)}`, { cause: reason });
  }
}
