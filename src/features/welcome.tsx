'use client';
import { useState } from 'react';
import { DEMO, OPENABLE_ENDINGS, patchSession, takeFiles, useSession } from '@/state';
import { Button, FileButton } from '@/ui';

/** While there is no project but the demo: that it is one, and where one's own heightmap goes. */
export function Welcome() {
  const isDemo = useSession((s) => s.projectId === DEMO.id);
  const own = useSession((s) => s.projects.some((p) => p.id !== DEMO.id));
  const dropped = useSession((s) => s.dropped !== null);
  const [over, setOver] = useState(false);
  if (!isDemo || own || over || dropped) return null;
  return (
    <div
      role="region"
      aria-label="Your own heightmap"
      className="flex flex-wrap items-center gap-x-3 gap-y-1 px-4 py-1.5 border-b border-rule bg-kelp-wash shrink-0"
    >
      <span>
        <b className="font-semibold">Your own heightmap:</b> drop it anywhere on this page, or
      </span>
      <FileButton
        kind="solid"
        label="Your heightmap"
        accept={OPENABLE_ENDINGS}
        multiple
        onFiles={(files) => void takeFiles(files)}
      >
        Choose a file…
      </FileButton>
      <Button kind="link" onClick={() => patchSession({ survey: true })}>
        or take surveyed ground…
      </Button>
      <span className="text-quiet">What you see is a demo. No file leaves this machine.</span>
      <Button kind="link" className="ml-auto" onClick={() => setOver(true)}>
        Go on with the demo
      </Button>
    </div>
  );
}
