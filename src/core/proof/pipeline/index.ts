export * from './reference';
export * from './words';
export { GroundErrorMeter, compareGround } from './ground-error';
export { doubtChecks } from './doubts';
