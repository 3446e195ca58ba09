import { formatNumber, formatShort } from '../../base';

/** A percentage that never rounds to all or nothing where it is neither. */
export function percent(share: number, digits = 0): string {
  const least = 10 ** -digits;
  const value = 100 * share;
  if (value > 0 && value < least) return `under ${formatShort(least, digits)} %`;
  if (value < 100 && value > 100 - least) return `over ${formatShort(100 - least, digits)} %`;
  return `${formatShort(value, digits)} %`;
}

/** So many of something, in words. */
export const plural = (n: number, one: string, many = `${one}s`): string =>
  `${formatNumber(n, 0)} ${n === 1 ? one : many}`;

/** What a sample of a target's files is called. */
export const samplesOf = ({ registration }: { readonly registration: 'vertex' | 'cell' }): string =>
  registration === 'cell' ? 'cells' : 'vertices';
