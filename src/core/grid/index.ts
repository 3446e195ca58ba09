export * from './layouts';
export * from './ladder';
export * from './first-fit';
export * from './split-offers';
