'use client';
import { useEffect, useState } from 'react';
import { formatBytes } from '@/core/base';
import { fileNameOf } from '@/core/tiles';
import { targetOf } from '@/core/targets';
import { filesInTheWay, saveInto } from '@/io/browser';
import { makeDraft, makePack, showError, useSession, workers, type Draft, type Pack } from '@/state';
import { Button, Mark, Select, Sheet } from '@/ui';
import { download } from '../download';
import { useCurrentRecipe, usePackKey, usePlan } from '../hooks';
import { BenchHead, Group, Hint } from './parts';

/** The pack of the recipe as it stands: the one at hand, or a new one. */
async function currentPack(key: string): Promise<Pack | null> {
  const { pack } = useSession.getState();
  if (pack?.key === key) return pack;
  return (await makePack()) ? useSession.getState().pack : null;
}

/** The draft of the recipe as it stands on so many vertices. */
async function currentDraft(vertices: number, key: string): Promise<Draft | null> {
  const { draft } = useSession.getState();
  if (draft?.key === key && draft.vertices === vertices) return draft;
  return (await makeDraft(vertices)) ? useSession.getState().draft : null;
}

async function downloadZip(pack: Pack | null): Promise<void> {
  if (!pack) return;
  const { name, draft } = pack.document;
  try {
    const suffix = draft === null ? '' : `-draft${draft}`;
    download(await workers().zip(pack.files).done, `${fileNameOf(name)}${suffix}.zip`);
  } catch (reason) {
    showError(reason, 'writing the zip');
  }
}

async function downloadPack(key: string): Promise<void> {
  await downloadZip(await currentPack(key));
}

/** A folder that was picked, and what of the pack would be written over in it. */
interface Picked {
  readonly directory: FileSystemDirectoryHandle;
  readonly pack: Pack;
  readonly inTheWay: readonly string[];
}

/** Saves where nothing is in the way; else hands back what must be asked first. */
async function saveToFolder(key: string): Promise<Picked | null> {
  try {
    // asked for first: the browser allows it only straight after a click
    const directory = await window.showDirectoryPicker({ mode: 'readwrite' });
    const pack = await currentPack(key);
    if (!pack) return null;
    const inTheWay = await filesInTheWay(directory, pack.files);
    if (inTheWay.length > 0) return { directory, pack, inTheWay };
    await saveInto(directory, pack.files);
  } catch (reason) {
    if (!(reason instanceof DOMException && reason.name === 'AbortError')) showError(reason, 'saving into the folder');
  }
  return null;
}

/** Asks before anything of somebody else is written over, and names it. */
function ReplaceSheet({ picked, onClose }: { picked: Picked | null; onClose: () => void }) {
  const shown = picked?.inTheWay.slice(0, 6) ?? [];
  const more = (picked?.inTheWay.length ?? 0) - shown.length;
  return (
    <Sheet open={picked !== null} title="Replace older files?" onClose={onClose}>
      <p className="mb-2">
        In that folder lie files of these names which are not of this pack. Replaced, they are gone.
      </p>
      <ul className="num text-[13px] mb-4">
        {shown.map((name) => (
          <li key={name}>{name}</li>
        ))}
        {more > 0 && <li>and {more} more</li>}
      </ul>
      <div className="flex gap-2">
        <Button
          className="!bg-madder !border-madder text-panel"
          onClick={() => {
            onClose();
            if (picked)
              saveInto(picked.directory, picked.pack.files).catch((reason: unknown) =>
                showError(reason, 'saving into the folder'),
              );
          }}
        >
          Replace them
        </Button>
        <Button onClick={onClose}>Keep them</Button>
      </div>
    </Sheet>
  );
}

declare global {
  interface Window {
    /** Not in TypeScript's own list of browser interfaces yet. */
    showDirectoryPicker(options: { mode: 'readwrite' }): Promise<FileSystemDirectoryHandle>;
  }
}

export function HandOver() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const pack = useSession((s) => s.pack);
  const draftPack = useSession((s) => s.draft);
  const working = useSession((s) => s.job !== null);
  const [canSave, setCanSave] = useState(false);
  const [draft, setDraft] = useState<string | null>(null);
  const key = usePackKey();
  const [picked, setPicked] = useState<Picked | null>(null);
  useEffect(() => {
    // known only in the browser: the server renders without it
    // eslint-disable-next-line react-hooks/set-state-in-effect
    setCanSave('showDirectoryPicker' in window);
  }, []);
  if (!recipe || !plan) return null;
  const blocked = plan.refusals.length > 0 || working;
  const target = targetOf(recipe.target);
  const rungs = target.wellWorn.filter((n) => n < plan.document.tiles.width);
  const rung = Number(draft ?? rungs.filter((n) => n <= 505).at(-1) ?? rungs[0] ?? 0);
  const fresh = pack?.key === key ? pack : null;
  return (
    <>
      <BenchHead title="Hand over">
        Height files, an import page with every value, and the recipe that makes them again.
      </BenchHead>
      <Group title="The pack">
        <div className="flex gap-2">
          <Button kind="solid" disabled={blocked} onClick={() => void downloadPack(key)}>
            Download the pack
          </Button>
          {canSave && (
            <Button disabled={blocked} onClick={() => void saveToFolder(key).then(setPicked)}>
              Save into a folder…
            </Button>
          )}
        </div>
        <Hint>
          {plan.document.files.length + 4} files:{' '}
          {plan.document.files.length === 1 ? plan.document.files[0]?.name : `${plan.document.files.length} tiles`},
          import.html to read and print, import.md, import.json, recipe.json. It is proved as it is made.
        </Hint>
      </Group>
      {rung > 0 && (
        <Group title="A draft first">
          <div className="flex items-center gap-2">
            <Select
              label="Draft size"
              value={String(rung)}
              options={rungs.map((n) => ({ value: String(n), label: `${n} vertices` }))}
              onChange={setDraft}
              className="flex-1"
            />
            <Button disabled={blocked} onClick={() => void currentDraft(rung, key).then(downloadZip)}>
              Download the draft
            </Button>
          </div>
          <Hint>
            The same ground and heights on few vertices: a trial import takes seconds. It is marked as a draft and
            proves nothing of the pack.
          </Hint>
          {draftPack?.key === key && (
            <p className="flex items-center gap-2 text-[13px]" role="status">
              <Mark state={draftPack.proof.holds ? 'holds' : 'fault'} silent />
              {draftPack.proof.holds ? 'The draft holds' : 'The draft does not hold'}: {draftPack.files.size} files on{' '}
              {draftPack.vertices} vertices.
            </p>
          )}
        </Group>
      )}
      {fresh && (
        <Group title="Written">
          <ul className="text-[13px]">
            {[...fresh.files].map(([name, blob]) => (
              <li key={name} className="flex justify-between gap-2 border-b border-rule py-0.5">
                <Button kind="link" className="!text-ink min-w-0" onClick={() => download(blob, name)}>
                  <span className="truncate">{name}</span>
                </Button>
                <span className="num">{formatBytes(blob.size)}</span>
              </li>
            ))}
          </ul>
        </Group>
      )}
      <ReplaceSheet picked={picked} onClose={() => setPicked(null)} />
      <Group title="Steps in the target">
        <ol className="flex flex-col gap-1 list-decimal pl-4 text-[13px] leading-[17px]">
          {(plan.document.files.length > 1 ? target.stepsOfTiles : target.steps).map((s) => (
            <li key={s.text}>{s.text}</li>
          ))}
        </ol>
      </Group>
      <Group title="If the file does not fit">
        <Hint>
          Wrong size: {target.wrongSize} Wrong depth: {target.wrongDepth}
        </Hint>
      </Group>
    </>
  );
}
