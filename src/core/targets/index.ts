export * from './schema';
export * from './built-in';
