'use client';
import { readFileAgain, replaceSource, SOURCE_ENDINGS, useSession } from '@/state';
import { Button, FileButton, Mark } from '@/ui';
import { Hint } from './parts';

/** Archives hold sources too. */
const CHOOSABLE = [...SOURCE_ENDINGS, '.zip'];

/** The file behind the source: read again when it was saved anew, or another one in its place. */
export function SourceFile() {
  const handle = useSession((s) => s.origin?.handle ?? null);
  const changed = useSession((s) => s.changedOnDisk);
  return (
    <div className="flex flex-col gap-2 border-t border-rule pt-3">
      {changed && (
        <p role="status" className="flex items-start gap-1.5">
          <Mark state="caution" silent />
          <span>The file was changed on disk after it was read.</span>
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        {handle ? (
          <Button kind={changed ? 'solid' : 'line'} onClick={() => void readFileAgain()}>
            Read it again
          </Button>
        ) : (
          <FileButton
            label="The same heightmap, saved anew"
            multiple
            accept={CHOOSABLE}
            onFiles={(files) => void readFileAgain(files)}
          >
            Read it again…
          </FileButton>
        )}
        <FileButton
          label="Replacing heightmap"
          multiple
          accept={CHOOSABLE}
          onFiles={(files) => void replaceSource(files)}
        >
          Replace the source…
        </FileButton>
      </div>
      <Hint>
        Both keep every choice of this project. For a project of its own bring a file in with the button above, or drop
        files or a folder anywhere on this page.
      </Hint>
    </div>
  );
}
