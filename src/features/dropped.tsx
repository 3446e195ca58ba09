'use client';
import { formatShort } from '@/core/base';
import { targetOf } from '@/core/targets';
import {
  adoptDropped,
  heightsAmong,
  leaveDropped,
  SOURCE_ENDINGS,
  projectName,
  typeIntoDropped,
  useRecipe,
  useSession,
  type Dropped,
} from '@/state';
import { Button, FileButton, Mark } from '@/ui';
import { Group, Hint } from './bench/parts';
import { saidText } from './row-words';
import { Errors, ProofChecks, ProofSpots, TypedValues, Verdict } from './proof-parts';

/** What the choices were made for, as far as what was dropped says it. */
function wanted({ document, recipe }: Dropped): string {
  if (document) {
    const { file, width, height, bitDepth } = document.source;
    return `${file}, ${width} × ${height} samples of ${bitDepth} bits`;
  }
  const { raw, spacing } = recipe.source;
  const size = raw ? ` of ${raw.width} × ${raw.height} samples` : '';
  return `a heightmap${size} with ${formatShort(spacing, 6)} m from sample to sample`;
}

/** Asks for the source; the one that is open is offered where it may be it. */
function SourceWanted({ dropped }: { dropped: Dropped }) {
  const open = useSession((s) => s.facts);
  const blob = useSession((s) => s.source);
  const { document } = dropped;
  const fits =
    open !== null &&
    blob !== null &&
    (document === null || (open.info.width === document.source.width && open.info.height === document.source.height));
  return (
    <Group title="Its source">
      <p>It was made for {wanted(dropped)}.</p>
      <Hint>
        With it this opens as a project of its own: every choice can be changed, the ground is on the map
        {dropped.files ? ', and all samples are compared' : ', and the pack can be made'}.
      </Hint>
      <div className="flex flex-wrap gap-2">
        <FileButton
          kind="solid"
          label="Source of the pack"
          accept={SOURCE_ENDINGS}
          multiple
          onFiles={(files) => {
            const file = heightsAmong(files);
            if (file) void adoptDropped(file, file.name);
          }}
        >
          Choose the source…
        </FileButton>
        {fits && <Button onClick={() => void adoptDropped(blob, open.file)}>Use {open.file}, which is open</Button>}
      </div>
    </Group>
  );
}

/** The values of a page that came without its files. */
function PageValues({ document }: { document: NonNullable<Dropped['document']> }) {
  return (
    <Group title="Values to type">
      <ul>
        {document.card.map((r) => (
          <li key={r.id} className="flex items-baseline justify-between gap-3 border-b border-rule py-0.5">
            <span>
              {r.label}
              {r.assumed.length > 0 && (
                <span className="text-ochre text-[12px]">
                  {' '}
                  <Mark state="caution" silent /> placeholder
                </span>
              )}
            </span>
            <span className="num">
              {saidText(r)} <span className="text-quiet text-[12px]">{r.unit}</span>
            </span>
          </li>
        ))}
      </ul>
    </Group>
  );
}

/** A recipe, an import page or a pack that was dropped and has no source here: what it says and what can be done. */
export function DroppedDesk({ dropped }: { dropped: Dropped }) {
  const back = useRecipe(projectName);
  const working = useSession((s) => s.job !== null);
  const { recipe, document, files, proof, typed } = dropped;
  const target = targetOf(recipe.target);
  const kind = files ? 'A pack' : document ? 'An import page' : 'A recipe';
  return (
    <main aria-label="What was dropped" className="flex-1 min-h-0 overflow-y-auto bg-panel">
      <div className="max-w-[980px] mx-auto px-4 wide:px-6 py-5 flex flex-col gap-5">
        <div className="flex flex-wrap items-start gap-x-4 gap-y-2">
          <div className="flex-1 min-w-60">
            <h2 className="font-semibold text-[20px]">{recipe.name}</h2>
            <p className="text-quiet">
              {kind} for: {target.name}. Looked at, not kept: {dropped.file} stays as it is.
            </p>
          </div>
          <Button onClick={leaveDropped}>Back to {back === '' ? 'the project' : back}</Button>
        </div>
        <div className="grid gap-x-10 gap-y-6 md:grid-cols-2 items-start">
          <div className="flex flex-col gap-6">
            <SourceWanted dropped={dropped} />
            {files && !proof && (
              <p role="status">{working ? 'Its files are being read back…' : 'Its files were not proved.'}</p>
            )}
            {proof && (
              <>
                <Verdict proof={proof} aside="against its own page" />
                <Group title="What was compared">
                  <ProofChecks proof={proof} />
                </Group>
                <Errors proof={proof} />
                <Group title="Check spots" aside="height in the target">
                  <ProofSpots proof={proof} />
                </Group>
              </>
            )}
            {!files && (
              <Hint>
                {document
                  ? 'Without files there is nothing to prove: drop the whole pack, zipped or as a folder.'
                  : 'A recipe says what is to be done, not what came of it: values and files come with the source.'}
              </Hint>
            )}
          </div>
          {document && files && (
            <Group title="What was typed">
              <Hint>
                The page’s own values. Type what the target really holds: the files are read with it again, and the
                value that is wrong is named.
              </Hint>
              <TypedValues card={document.card} typed={typed} onType={typeIntoDropped} />
            </Group>
          )}
          {document && !files && <PageValues document={document} />}
        </div>
      </div>
    </main>
  );
}
