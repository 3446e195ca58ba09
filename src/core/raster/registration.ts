/**
 * Where samples of a result lie among those of its source, through metres. A vertex stands at i, a cell's middle at
 * i + ½; n vertices span n − 1 spacings, n cells span n.
 */
type Registration = 'vertex' | 'cell';

export interface Registrations {
  readonly source: Registration;
  readonly result: Registration;
  /** Where they differ: the ends of both coincide (`extent`), or their outermost samples do (`centres`). */
  readonly hold: 'extent' | 'centres';
}

export const VERTICES: Registrations = { source: 'vertex', result: 'vertex', hold: 'extent' };

/** Outermost samples lie upon each other. */
const meets = ({ source, result, hold }: Registrations): boolean =>
  source === result ? source === 'vertex' : hold === 'centres';

/** Spacings that n samples span. */
export const spansOf = (registration: Registration, n: number): number => (registration === 'cell' ? n : n - 1);

/** Source samples from one sample of the result to the next. */
export function perSample(n: number, m: number, r: Registrations): number {
  if (meets(r)) return m > 1 ? (n - 1) / (m - 1) : 0;
  const across = spansOf(r.result, m);
  return across > 0 ? spansOf(r.source, n) / across : 0;
}

/** Where sample `i` of `m` lies among `n` of the source: a quotient of whole numbers, rounded once. */
export function placeOf(i: number, n: number, m: number, r: Registrations): number {
  if (meets(r)) return m > 1 ? (i * (n - 1)) / (m - 1) : 0;
  const across = spansOf(r.result, m);
  if (across === 0) return 0;
  const twice = r.result === 'cell' ? 2 * i + 1 : 2 * i;
  return (twice * spansOf(r.source, n) - (r.source === 'cell' ? across : 0)) / (2 * across);
}
