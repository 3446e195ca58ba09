export * from './reference';
export { GroundErrorMeter, compareGround } from './ground-error';
