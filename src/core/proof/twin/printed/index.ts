export type { ReadPage } from './read-page';
export { numbersOf } from './read-page';

/* The parsers are loaded where a page is read: nothing else needs them. */

export const readPrintedHtml = async (text: string) => (await import('./html')).readHtml(text);
export const readPrintedMarkdown = async (text: string) => (await import('./markdown')).readMarkdown(text);
