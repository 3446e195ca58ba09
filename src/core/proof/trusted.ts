import type { Recipe } from '../recipe';
import type { Reference } from './pipeline';
import type { Proof } from './types';

/** What a proof takes as given: it would have to read files, or people's minds, in a way of its own. */
export function trustedOf(recipe: Recipe, reference: Reference | null): Proof['trusted'] {
  if (!reference) return [{ what: 'the ground itself', guard: 'nothing: no source was given' }];
  const { info, sums } = reference.opened;
  const out = [
    {
      what: `that ${reference.file} is read into samples rightly`,
      guard: sums
        ? 'checksums of its files; the readers are tested against other programs’ files'
        : 'what the format checks itself; the readers are tested against other programs’ files',
    },
    {
      what: 'what the source’s samples stand for, as the recipe says it',
      guard: 'the check spots, if heights are known there',
    },
  ];
  const reprojected = recipe.steps.some((s) => s.op === 'reproject' && !s.off);
  if (info.georeference)
    out.push({ what: 'the coordinates that the source states', guard: 'nothing but the file itself' });
  if (info.georeference?.system !== undefined && reprojected)
    out.push({
      what: `what its coordinate system means (${info.georeference.crs ?? 'stated in the file'})`,
      guard: 'a list of systems that many use',
    });
  return out;
}
