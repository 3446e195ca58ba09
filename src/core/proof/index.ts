export * from './prove';
export { decoderFor } from './decoders';
export type { WorstError } from './error-meter';
export * from './types';
export { proofLines } from './summary';
