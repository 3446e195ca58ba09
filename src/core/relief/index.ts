export * from './ramp';
export * from './shade';
