'use client';
import { useEffect, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useHotkeys } from 'react-hotkeys-hook';
import { asLevelGridError, formatNumber } from '@/core/base';
import { HEIGHT_ENDINGS, type RawLayout } from '@/core/formats';
import { adopt, bringInAll, editHere, goToStep, patchSession, readAsRaw, redo, start, undo, useSession } from '@/state';
import { Boundary, Button, FileButton, Sheet, tied } from '@/ui';
import { Bench } from './bench';
import { firstLayout, LayoutFields } from './bench/headerless-panel';
import { ImportCard } from './card/import-card';
import { Chain, STEPS } from './chain/chain';
import { MapView } from './map/map-view';
import { SectionStrip } from './section/section';
import { KeysSheet } from './keys';
import { Panes } from './panes';
import { TopBar } from './top-bar';
import { Welcome } from './welcome';

/** True where keys write text or search a list. Sliders, switches and ticks are not among these. */
const isTyping = ({ target }: KeyboardEvent): boolean =>
  target instanceof HTMLElement &&
  target.closest(
    'input:not([type=checkbox], [type=radio], [type=range]), textarea, select, [contenteditable], [role=listbox], [role=menu]',
  ) !== null;

/** Keys of the whole page work wherever nobody types: also right after a step on a slider. */
const KEYS_OF_ALL = { enableOnFormTags: true, ignoreEventWhen: isTyping } as const;

/** A fault of a part of the page, in words and with its number. */
const unforeseen = (reason: unknown): string => asLevelGridError(reason, 'showing a part of the page').remedy;

const THEME = 'level-grid/theme';

/** The theme that was chosen last; null where none was, or nothing is kept. */
function keptTheme(): string | null {
  try {
    return localStorage.getItem(THEME);
  } catch {
    return null;
  }
}

function keepTheme(theme: string): void {
  try {
    localStorage.setItem(THEME, theme);
  } catch {
    // it holds for this visit
  }
}

/** Progress, remaining time and cancel of the work that is going on. */
function JobLine() {
  const job = useSession((s) => s.job);
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (!job) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [job]);
  if (!job) return null;
  const spent = Math.max(0, now - job.started);
  const left =
    job.progress > 0.03 && spent > 1500 ? Math.ceil((spent * (1 - job.progress)) / job.progress / 1000) : null;
  return (
    <div role="status" className="bg-panel border border-ink flex items-center gap-3 px-3 h-10">
      <span className="max-w-44 truncate">{job.label}</span>
      <span
        className="w-24 h-2 border border-ink"
        role="progressbar"
        aria-label={job.label}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(job.progress * 100)}
      >
        <span className="block h-full bg-kelp" style={{ width: `${job.progress * 100}%` }} />
      </span>
      <span className="num text-[12px] w-16 text-right">
        {left === null ? `${Math.round(job.progress * 100)} %` : `${left} s left`}
      </span>
      <Button kind="link" onClick={() => job.cancel()}>
        cancel
      </Button>
    </div>
  );
}

/** What happened meanwhile and needs no answer; it stays until it has been read. */
function Notice() {
  const notice = useSession((s) => s.notice);
  if (notice === null) return null;
  return (
    <div
      role="status"
      className="bg-panel border border-ink flex items-start gap-3 px-3 py-2 max-w-[min(440px,calc(100vw-16px))]"
    >
      <p>{tied(notice)}</p>
      <Button kind="link" onClick={() => patchSession({ notice: null })}>
        Close
      </Button>
    </div>
  );
}

/** What went wrong, as it is: file, found, expected, remedy. Stays until it is closed. */
function ErrorSheet() {
  const error = useSession((s) => s.error);
  const refused = useSession((s) => s.refusedFile);
  const [raw, setRaw] = useState(false);
  // what was typed stays, also where the file was refused again
  const [typed, setTyped] = useState<{ file: File; layout: RawLayout } | null>(null);
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
            start={typed?.file === refused ? typed.layout : firstLayout(refused.size)}
            bytes={refused.size}
            onRead={(layout) => {
              setTyped({ file: refused, layout });
              void readAsRaw(refused, layout);
            }}
          />
        </div>
      )}
      <div className="flex gap-2">
        {refused && !raw && <Button onClick={() => setRaw(true)}>Read as RAW…</Button>}
        <Button onClick={close}>Close</Button>
      </div>
    </div>
  );
}

/** A project that has lost its source asks for the file, by what it is known by. */
function OrphanSheet() {
  const orphan = useSession((s) => s.orphan);
  const close = (): void => patchSession({ orphan: null });
  const { project, other } = orphan ?? {};
  const name = project?.recipe.name ?? project?.file;
  return (
    <Sheet open={orphan !== null} title={`${name ?? ''} has lost its source`} onClose={close}>
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
          accept={HEIGHT_ENDINGS}
          onFiles={([file]) => file && void adopt(file)}
        >
          Choose the file…
        </FileButton>
        {other && <Button onClick={() => void adopt(other, true)}>Use it all the same</Button>}
        <Button onClick={close}>Leave it</Button>
      </div>
    </Sheet>
  );
}

/** Of several tabs one edits; the others show what it keeps. */
function OtherTab() {
  const following = useSession((s) => s.following);
  if (!following) return null;
  return (
    <div
      role="status"
      className="flex items-center gap-3 px-4 h-9 border-b border-ink bg-kelp-wash text-[14px] shrink-0"
    >
      <span>Another tab edits. This one shows what it keeps; changes can’t be made in both.</span>
      <Button onClick={editHere}>Edit here instead</Button>
    </div>
  );
}

export function Workplace() {
  const theme = useSession((s) => s.theme);
  const ready = useSession((s) => s.ready);
  const following = useSession((s) => s.following);
  const pane = useSession((s) => s.pane);
  const [keys, setKeys] = useState(false);
  useEffect(() => {
    void start();
  }, []);
  const first = useRef(true);
  useEffect(() => {
    // the system's own preference until the artist chooses
    if (first.current) {
      first.current = false;
      const kept = keptTheme();
      const night = kept === 'night' || (kept === null && matchMedia('(prefers-color-scheme: dark)').matches);
      if (night) patchSession({ theme: 'night' });
      return;
    }
    keepTheme(theme);
    document.documentElement.dataset['theme'] = theme;
  }, [theme]);
  // what another tab edits is not undone here
  const whenEditing = (act: () => void) => (): void => {
    if (!useSession.getState().following) act();
  };
  useHotkeys('mod+z', whenEditing(undo), { ...KEYS_OF_ALL, preventDefault: true });
  useHotkeys('mod+shift+z, mod+y', whenEditing(redo), { ...KEYS_OF_ALL, preventDefault: true });
  useEffect(() => {
    // by the character, not by the place of its key, which differs from keyboard to keyboard
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === '?' && !isTyping(e)) setKeys(true);
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, []);
  useHotkeys(
    '1,2,3,4,5,6,7',
    (_, h) => {
      const step = STEPS[Number(h.keys?.join('')) - 1];
      if (step) goToStep(step.id);
    },
    KEYS_OF_ALL,
  );
  useHotkeys('c', () => patchSession({ compare: !useSession.getState().compare }), KEYS_OF_ALL);
  useHotkeys(
    'n',
    () => patchSession({ theme: useSession.getState().theme === 'film' ? 'night' : 'film' }),
    KEYS_OF_ALL,
  );
  useHotkeys(
    'r,h,s,t,d',
    (_, h) => {
      const view = ({ r: 'relief', h: 'heights', s: 'slope', t: 'steps', d: 'difference' } as const)[
        h.keys?.join('') ?? ''
      ];
      if (view) patchSession({ view });
    },
    KEYS_OF_ALL,
  );
  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDropAccepted: (files) => void bringInAll(files),
  });
  return (
    <div {...getRootProps()} className="h-dvh flex flex-col relative" data-ready={ready}>
      <OtherTab />
      <div inert={following} className="shrink-0">
        <TopBar onKeys={() => setKeys(true)} />
        <Welcome />
      </div>
      <Chain />
      <main inert={following} className="flex flex-1 min-h-0">
        <Boundary part="The bench" explain={unforeseen}>
          <Bench />
        </Boundary>
        <div className={`flex-1 min-w-0 flex-col ${pane === 'bench' || pane === 'card' ? 'hidden sm:flex' : 'flex'}`}>
          <Boundary part="The map" explain={unforeseen}>
            <MapView />
          </Boundary>
          <Boundary part="The section" explain={unforeseen}>
            <SectionStrip />
          </Boundary>
        </div>
        <Boundary part="The import card" explain={unforeseen}>
          <ImportCard />
        </Boundary>
      </main>
      <Panes />
      <div className="absolute right-2 wide:right-[306px] bottom-12 wide:bottom-[168px] z-40 flex flex-col items-end gap-2 max-w-full">
        <Notice />
        <JobLine />
      </div>
      <ErrorSheet />
      <OrphanSheet />
      {isDragActive && (
        <div className="absolute inset-0 z-50 bg-film/85 grid place-items-center border-4 border-kelp pointer-events-none">
          <p className="text-[22px] font-semibold">
            Drop heightmaps or a folder: each file becomes a project of its own
          </p>
        </div>
      )}
      <KeysSheet open={keys} onClose={() => setKeys(false)} />
    </div>
  );
}
