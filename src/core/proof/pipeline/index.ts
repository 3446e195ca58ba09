export * from './reference';
export * from './words';
export { compareGround } from './ground-error';
export { doubtChecks } from './doubts';
