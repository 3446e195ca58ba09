'use client';
import { patchSession, useSession } from '@/state';
import { Sheet } from '@/ui';
import { Desk } from './desk';

/** The survey desk: surveyed ground that ships with the application, taken into a project. */
export function SurveySheet() {
  const open = useSession((s) => s.survey);
  return (
    <Sheet open={open} title="Survey desk" onClose={() => patchSession({ survey: false })} width="max-w-4xl">
      {open && <Desk />}
    </Sheet>
  );
}
