export * from './ramp';
export * from './shade';
export * from './swatch';
