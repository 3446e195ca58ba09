export * from './page';
export * from './layout';
export * from './places';
export * from './ground';
export * from './heights';
export * from './card';
export * from './page-json';
export * from './page-printed';
