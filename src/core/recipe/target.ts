import { parseJson, type JsonKind } from '../base';
import { targetSchema, type Target } from '../targets';
import { documentError } from './parse';

const DESCRIPTION: JsonKind = {
  words: 'description of a target',
  code: 'recipe-syntax',
  limits: { length: 2 ** 18, depth: 16 },
  remedy: 'Correct the text, or save the description of a target again and change that.',
};

/** The description of a target (JSON), checked; throws a typed error with the path of the first thing wrong. */
export function parseTargetText(text: string, file: string | null = null): Target {
  const value = parseJson(text, DESCRIPTION, file);
  const result = targetSchema.safeParse(value);
  if (result.success) return result.data;
  throw documentError(result.error, 'description of a target', file, value);
}
