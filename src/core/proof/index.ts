export * from './prove';
export { decoderFor, type TargetDecoder, type TypedValues } from './decoders';
export type { ErrorFigures, WorstError } from './error-meter';
export * from './types';
export { proofLines } from './summary';
