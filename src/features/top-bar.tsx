'use client';
import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { ChevronDown, Keyboard, Moon, Redo2, Sun, Undo2 } from 'lucide-react';
import { useState } from 'react';
import { useStore } from 'zustand';
import { withTarget } from '@/core/edits';
import { BUILT_IN_TARGETS, targetIdOf } from '@/core/targets';
import {
  DEMO,
  leaveDropped,
  openDemo,
  OPENABLE_ENDINGS,
  openProject,
  patchSession,
  projectName as nameOfProject,
  redo,
  removeProject,
  renameProject,
  takeFiles,
  undo,
  unkeptText,
  useRecipe,
  useSession,
} from '@/state';
import { Button, FileButton, Mark, Select, Sheet } from '@/ui';
import { choose } from './hooks';
import { WhichTarget } from './which-target';

const switchTarget = (id: string): void => {
  const info = useSession.getState().plan?.work.entering.info;
  if (info) choose((r) => withTarget(r, id, info));
};

function ProjectMenu() {
  const projectName = useRecipe(nameOfProject);
  const projects = useSession((s) => s.projects);
  const projectId = useSession((s) => s.projectId);
  const unkept = useSession((s) => s.unkept);
  const kept = projects.some((p) => p.id === projectId);
  const [deleting, setDeleting] = useState(false);
  const [renaming, setRenaming] = useState<string | null>(null);
  const item = 'block w-full text-left px-3 py-1 data-focus:bg-kelp-wash data-disabled:text-quiet';
  return (
    <>
      <Menu>
        <MenuButton
          className="flex items-center gap-1 h-7 border-b border-ink min-w-0 max-w-40 wide:max-w-64"
          aria-label={`Project: ${projectName}`}
        >
          <span className="text-quiet mr-1 max-wide:hidden">Project</span>
          <span className="truncate font-semibold">{projectName || '…'}</span>
          {projectId === DEMO.id && <span className="text-quiet whitespace-nowrap">demo</span>}
          <ChevronDown size={14} aria-hidden="true" className="shrink-0" />
        </MenuButton>
        <MenuItems
          anchor={{ to: 'bottom start', gap: 2 }}
          className="z-50 w-64 bg-panel border border-ink outline-none py-1"
        >
          <MenuItem>
            <button type="button" className={item} onClick={() => patchSession({ survey: true })}>
              Take ground from the survey desk…
            </button>
          </MenuItem>
          <MenuItem>
            <button type="button" className={item} onClick={() => setRenaming(projectName)}>
              Rename this project…
            </button>
          </MenuItem>
          <MenuItem>
            <button type="button" className={item} onClick={() => setDeleting(true)}>
              Delete this project…
            </button>
          </MenuItem>
          <div className="border-t border-rule my-1" />
          {projects.map((p) => (
            <MenuItem key={p.id}>
              <button
                type="button"
                className={`${item} ${p.id === projectId ? 'font-semibold' : ''}`}
                onClick={() => {
                  leaveDropped();
                  void openProject(p.id);
                }}
              >
                {p.name}
                {p.id === DEMO.id && <span className="text-quiet font-normal"> · demo</span>}
                {p.id === projectId && <span className="text-quiet font-normal"> · open</span>}
              </button>
            </MenuItem>
          ))}
          {!projects.some((p) => p.id === DEMO.id) && (
            <MenuItem>
              <button
                type="button"
                className={item}
                onClick={() => {
                  leaveDropped();
                  void openDemo();
                }}
              >
                Kettle Tarn, the demo
              </button>
            </MenuItem>
          )}
        </MenuItems>
      </Menu>
      {unkept && (
        <button
          type="button"
          className="flex items-center gap-1.5 text-ochre text-[13px] underline decoration-1 underline-offset-2 min-h-6"
          onClick={() => patchSession({ notice: unkeptText(unkept) })}
        >
          <Mark state="caution" silent /> not kept
        </button>
      )}
      <Sheet open={deleting} title={`Delete ${projectName}?`} onClose={() => setDeleting(false)}>
        <p className="mb-4">
          {kept
            ? 'The recipe and the copy of the source kept in this browser are removed. Your own files stay where they are.'
            : 'Nothing of it is kept in this browser: it is closed. Your own files stay where they are.'}{' '}
          This can’t be undone.
        </p>
        <div className="flex gap-2">
          <Button
            className="!bg-madder !border-madder text-panel"
            onClick={() => {
              setDeleting(false);
              if (projectId !== null) void removeProject(projectId);
            }}
          >
            Delete project
          </Button>
          <Button onClick={() => setDeleting(false)}>Keep it</Button>
        </div>
      </Sheet>
      <Sheet open={renaming !== null} title="Rename the project" onClose={() => setRenaming(null)}>
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            const name = renaming?.trim() ?? '';
            if (name !== '') renameProject(name.slice(0, 80));
            setRenaming(null);
          }}
        >
          <input
            aria-label="Name"
            autoFocus
            value={renaming ?? ''}
            maxLength={80}
            onChange={(e) => setRenaming(e.target.value)}
            className="flex-1 bg-transparent border-b border-ink h-7"
          />
          <Button kind="solid" type="submit">
            Rename
          </Button>
        </form>
        <p className="text-quiet mt-2">File names begin with it.</p>
      </Sheet>
    </>
  );
}

export function TopBar({ onKeys }: { onKeys: () => void }) {
  const recipe = useRecipe((s) => s.recipe);
  const own = typeof recipe?.target === 'object' ? recipe.target : null;
  const target = targetIdOf(own ?? recipe?.target ?? 'component-grid');
  const [asking, setAsking] = useState(false);
  const theme = useSession((s) => s.theme);
  // choices are those of the open project: they have no place beside what was dropped
  const dropped = useSession((s) => s.dropped !== null);
  const past = useStore(useRecipe.temporal, (s) => s.pastStates.length);
  const future = useStore(useRecipe.temporal, (s) => s.futureStates.length);
  return (
    <header className="flex flex-wrap items-center gap-x-2 wide:gap-x-4 gap-y-1 min-h-11 py-1 px-2 wide:px-4 border-b border-rule bg-panel shrink-0">
      <h1 className="flex items-center gap-2 font-semibold text-[16px]">
        <svg
          viewBox="0 0 20 20"
          width="18"
          height="18"
          aria-hidden="true"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.6"
        >
          <path d="M1.5 11.5 6 5l3.2 4.4L12 6.2l6.5 5.3" strokeLinejoin="round" />
          <path d="M1.5 14.5h17M1.5 17.5h17" className="text-kelp" stroke="currentColor" />
        </svg>
        <span className="max-wide:sr-only">Level Grid</span>
      </h1>
      <ProjectMenu />
      <div className={`items-center gap-1.5 ${dropped ? 'hidden' : 'flex'}`}>
        <span className="text-quiet max-wide:hidden">For</span>
        <Select
          label="Target"
          value={target}
          options={[...BUILT_IN_TARGETS, ...(own ? [own] : [])].map((t) => ({
            value: t.id,
            label: t.name,
            hint: t.summary,
          }))}
          onChange={switchTarget}
          className="font-semibold"
        />
        <Button kind="link" onClick={() => setAsking(true)} aria-label="Which kind of target is mine?">
          which one?
        </Button>
      </div>
      <WhichTarget
        open={asking}
        taken={target}
        onTake={(id) => {
          switchTarget(id);
          setAsking(false);
        }}
        onClose={() => setAsking(false)}
      />
      <FileButton
        label="Heightmap to bring in"
        accept={OPENABLE_ENDINGS}
        multiple
        onFiles={(files) => void takeFiles(files)}
      >
        Bring in…
      </FileButton>
      <div className="ml-auto flex items-center">
        <Button kind="plain" disabled={past === 0 || dropped} onClick={undo} aria-label="Undo" title="Undo">
          <Undo2 size={16} aria-hidden="true" />
        </Button>
        <Button kind="plain" disabled={future === 0 || dropped} onClick={redo} aria-label="Redo" title="Redo">
          <Redo2 size={16} aria-hidden="true" />
        </Button>
        <Button
          kind="plain"
          onClick={() => patchSession({ theme: theme === 'film' ? 'night' : 'film' })}
          aria-label={theme === 'film' ? 'Dark theme' : 'Light theme'}
          title={theme === 'film' ? 'Dark theme' : 'Light theme'}
        >
          {theme === 'film' ? <Moon size={16} aria-hidden="true" /> : <Sun size={16} aria-hidden="true" />}
        </Button>
        <Button kind="plain" onClick={onKeys} aria-label="Keyboard shortcuts" title="Keyboard shortcuts (?)">
          <Keyboard size={16} aria-hidden="true" />
        </Button>
      </div>
    </header>
  );
}
