export * from './schema';
export * from './built-in';
export * from './written';
export * from './questions';
