export * from './tiles';
export * from './profile';
