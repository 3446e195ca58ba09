import type { Recipe } from '../recipe';
import type { ProofCheck } from './types';

/** Of a source of several files: each is the one that the recipe was made for, byte for byte. */
export function sourceFilesCheck({ source }: Recipe, sums: ReadonlyMap<string, string> | null): ProofCheck[] {
  const stated = (source.files ?? []).filter((f) => f.sha256 !== undefined);
  if (!sums || stated.length === 0) return [];
  const others = stated.filter((f) => sums.get(f.name) !== f.sha256).map((f) => f.name);
  return [
    others.length === 0
      ? { id: 'source-files', state: 'holds', message: `All ${stated.length} files of the source are unchanged.` }
      : {
          id: 'source-files',
          state: 'fault',
          message: `${others.slice(0, 3).join(', ')}${others.length > 3 ? ` and ${others.length - 3} more` : ''} ${others.length === 1 ? 'is' : 'are'} not what the pack was made from: ${others.length === 1 ? 'its' : 'their'} bytes have changed.`,
        },
  ];
}
