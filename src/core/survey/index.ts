export * from './world';
export * from './ground';
export * from './record';
export * from './bundle';
export { recorded } from './recorded';
