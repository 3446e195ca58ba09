import { meshReading } from './mesh/schema';
import { layoutReading } from './raw/schema';

/** What files may not say themselves, by the key under which a recipe states it; each format says which it takes. */
export const READING_OPTIONS = { raw: layoutReading, mesh: meshReading } as const;
export type ReadingKey = keyof typeof READING_OPTIONS;
