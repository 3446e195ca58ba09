export * from './controller';
export * from './defaults';
export * from './recipe-store';
export * from './session';
