'use client';
import { useEffect, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { asLevelGridError } from '@/core/base';
import { editHere, start, takeFiles, useSession } from '@/state';
import { Boundary, Button } from '@/ui';
import { Bench } from './bench';
import { ImportCard } from './card/import-card';
import { Chain } from './chain/chain';
import { MapView } from './map/map-view';
import { SectionStrip } from './section/section';
import { DroppedDesk } from './dropped';
import { ErrorSheet, OrphanSheet } from './fault-sheets';
import { JobLine } from './job-line';
import { Notice } from './notice';
import { KeysSheet } from './keys';
import { usePageKeys } from './page-keys';
import { Panes } from './panes';
import { ProposalSheet } from './proposal';
import { SurveySheet } from './survey';
import { useTheme } from './theme';
import { TopBar } from './top-bar';
import { Welcome } from './welcome';

/** A fault of a part of the page, in words and with its number. */
const unforeseen = (reason: unknown): string => asLevelGridError(reason, 'showing a part of the page').remedy;

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

/** The chain of steps with bench, map, section and card. */
function WorkingSheet() {
  const following = useSession((s) => s.following);
  const pane = useSession((s) => s.pane);
  return (
    <>
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
    </>
  );
}

export function Workplace() {
  const ready = useSession((s) => s.ready);
  const following = useSession((s) => s.following);
  const dropped = useSession((s) => s.dropped);
  const failed = useSession((s) => s.error !== null);
  const [keys, setKeys] = useState(false);
  useEffect(() => {
    void start();
  }, []);
  useTheme();
  usePageKeys(() => setKeys(true));
  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDropAccepted: (files) => void takeFiles(files),
  });
  return (
    <div {...getRootProps()} className="h-dvh flex flex-col relative" data-ready={ready}>
      <OtherTab />
      <div inert={following} className="shrink-0">
        <TopBar onKeys={() => setKeys(true)} />
        <Welcome />
      </div>
      {dropped ? (
        <Boundary part="What was dropped" explain={unforeseen}>
          <DroppedDesk dropped={dropped} />
        </Boundary>
      ) : (
        <WorkingSheet />
      )}
      <div className="absolute right-2 wide:right-[306px] bottom-12 wide:bottom-[168px] z-40 flex flex-col items-end gap-2 max-w-full">
        <JobLine />
      </div>
      <Notice />
      <ErrorSheet />
      <OrphanSheet />
      <ProposalSheet />
      <SurveySheet />
      {isDragActive && (
        <div className="absolute inset-0 z-50 bg-film/85 grid place-items-center border-4 border-kelp pointer-events-none">
          <p className="text-[22px] font-semibold">
            Drop heightmaps, each a project of its own, or a pack with its page
          </p>
        </div>
      )}
      <KeysSheet open={keys && !failed} onClose={() => setKeys(false)} />
    </div>
  );
}
