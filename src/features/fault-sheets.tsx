'use client';
import { useEffect, useState } from 'react';
import { formatNumber } from '@/core/base';
import type { RawLayout } from '@/core/formats';
import { DAMAGED } from '@/core/raster';
import {
  adopt,
  heightsAmong,
  patchSession,
  isLossyPicture,
  readAsRaw,
  readLossyPicture,
  readWhatCanBe,
  SOURCE_ENDINGS,
  useSession,
} from '@/state';
import { Button, FileButton, Sheet } from '@/ui';
import { firstLayout, LayoutFields } from './bench/headerless-panel';
import { isTyping } from './page-keys';

/** What went wrong, as it is: file, found, expected, remedy. Stays until it is closed. */
export function ErrorSheet() {
  const error = useSession((s) => s.error);
  const refused = useSession((s) => s.refusedFile);
  const [raw, setRaw] = useState(false);
  // what was typed stays, also where the file was refused again
  const [typed, setTyped] = useState<{ file: File; layout: RawLayout } | null>(null);
  const shown = error !== null;
  useEffect(() => {
    if (!shown) return;
    const onKey = (e: KeyboardEvent): void => {
      // a field or a list that is open has the key first
      if (e.key !== 'Escape' || e.defaultPrevented || isTyping(e)) return;
      setRaw(false);
      patchSession({ error: null, refusedFile: null });
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [shown]);
  if (!error) return null;
  const close = (): void => {
    setRaw(false);
    patchSession({ error: null, refusedFile: null });
  };
  return (
    <div
      role="alert"
      className="absolute left-1/2 -translate-x-1/2 top-[60px] wide:top-[120px] z-50 w-[520px] max-w-[calc(100vw-16px)] max-h-[calc(100dvh-76px)] wide:max-h-[calc(100dvh-140px)] overflow-y-auto bg-panel border-2 border-madder px-4 py-3"
    >
      <p className="font-semibold text-[15px]">{error.file ?? 'This could not be done'}</p>
      <p>
        Found {error.found}; expected {error.expected}.
      </p>
      <p className="mb-2">{error.remedy} The open project is unchanged.</p>
      {raw && refused && (
        <div className="flex flex-col gap-2 mb-3 border-t border-rule pt-2">
          <LayoutFields
            layout={typed?.file === refused ? typed.layout : firstLayout(refused.size)}
            bytes={refused.size}
            onType={(layout) => setTyped({ file: refused, layout })}
            onRead={(layout) => {
              setTyped({ file: refused, layout });
              void readAsRaw(refused, layout);
            }}
          />
        </div>
      )}
      <div className="flex gap-2">
        {refused && DAMAGED.has(error.code) && (
          <Button onClick={() => void readWhatCanBe(refused)}>Keep the rows that can be read</Button>
        )}
        {refused && isLossyPicture(refused) && error.code === 'unknown-format' && (
          <Button onClick={() => void readLossyPicture(refused)}>Open its 8 bits all the same</Button>
        )}
        {refused && !raw && <Button onClick={() => setRaw(true)}>Read as RAW…</Button>}
        <Button onClick={close}>Close</Button>
      </div>
    </div>
  );
}

/** A project that has lost its source asks for the file, by what it is known by. */
export function OrphanSheet() {
  const orphan = useSession((s) => s.orphan);
  // what went wrong with a file that was given is read first
  const failed = useSession((s) => s.error !== null);
  const close = (): void => patchSession({ orphan: null });
  const { project, other } = orphan ?? {};
  const name = project?.recipe.name ?? project?.file;
  return (
    <Sheet open={orphan !== null && !failed} title={`${name ?? ''} has lost its source`} onClose={close}>
      <p className="mb-2">
        Its choices are kept; the browser no longer has the file. Choose it again: {project?.file}
        {project?.source &&
          `, ${formatNumber(project.source.size, 0)} bytes, checksum ${project.source.print.slice(0, 12)}…`}
      </p>
      {other && (
        <p className="mb-2 text-madder" role="alert">
          {other.name} ({formatNumber(other.size, 0)} bytes) is another file than the one these choices were made for.
        </p>
      )}
      <div className="flex gap-2 mt-4">
        <FileButton
          kind={other ? 'line' : 'solid'}
          label="Source of the project"
          multiple
          accept={SOURCE_ENDINGS}
          onFiles={(files) => void adopt(heightsAmong(files))}
        >
          Choose the file…
        </FileButton>
        {other && <Button onClick={() => void adopt(other, true)}>Use it all the same</Button>}
        <Button onClick={close}>Leave it</Button>
      </div>
    </Sheet>
  );
}
