'use client';
import { useState } from 'react';
import { asLevelGridError } from '@/core/base';
import { withTarget } from '@/core/edits';
import { parseTargetText } from '@/core/recipe';
import { targetOf } from '@/core/targets';
import { Button, FileButton } from '@/ui';
import { download } from '../download';
import { choose, useCurrentRecipe, useEnteringInfo } from '../hooks';
import { Group, Hint } from './parts';

/** The target as a file: saved to be changed, and one of one's own opened in its place. */
export function OwnTarget() {
  const recipe = useCurrentRecipe();
  const info = useEnteringInfo();
  const [wrong, setWrong] = useState<string | null>(null);
  if (!recipe || !info) return null;
  const target = targetOf(recipe.target);
  const save = (): void =>
    download(new Blob([JSON.stringify(target, null, 2)], { type: 'application/json' }), `${target.id}.target.json`);
  const open = async ([file]: readonly File[]): Promise<void> => {
    if (!file) return;
    try {
      const described = parseTargetText(await file.text(), file.name);
      setWrong(null);
      choose((r) => withTarget(r, described, info));
    } catch (reason) {
      const { found, expected, remedy } = asLevelGridError(reason, 'reading the description');
      setWrong(`Found ${found}; expected ${expected}. ${remedy}`);
    }
  };
  return (
    <Group title="A target of your own">
      <div className="flex flex-wrap gap-2">
        <Button onClick={save}>Save this one’s description</Button>
        <FileButton label="Description of a target" accept={['.json']} onFiles={(files) => void open(files)}>
          Open a description…
        </FileButton>
      </div>
      {wrong !== null && (
        <p role="alert" className="text-madder">
          {wrong}
        </p>
      )}
      <Hint>
        A description is a text file: change its sizes, heights, units or steps, and open it. It goes along in the
        recipe and in every pack.
      </Hint>
    </Group>
  );
}
