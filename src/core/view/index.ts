export * from './tiles';
export * from './small-picture';
export * from './profile';
