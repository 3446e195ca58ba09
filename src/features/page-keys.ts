'use client';
import { useEffect } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { goToStep, patchSession, redo, undo, useSession } from '@/state';
import { STEPS } from './chain/chain';

/** True where keys write text or search a list. Sliders, switches and ticks are not among these. */
export const isTyping = ({ target }: KeyboardEvent): boolean =>
  target instanceof HTMLElement &&
  target.closest(
    'input:not([type=checkbox], [type=radio], [type=range]), textarea, select, [contenteditable], [role=listbox], [role=menu]',
  ) !== null;

/** A sheet or a list lies over the page: keys are for it alone. */
const isCovered = (): boolean => document.querySelector('[role=dialog], [role=listbox], [role=menu]') !== null;

/** Nothing of the steps and the map is on the page while something dropped is looked at. */
const isElsewhere = (): boolean => useSession.getState().dropped !== null;

const LETTERS = 'level-grid/letters';

/** Whether single letters and digits act; they can be turned off, for those who speak or dictate to the page. */
export function letterShortcuts(): boolean {
  try {
    return localStorage.getItem(LETTERS) !== 'off';
  } catch {
    return true;
  }
}

/** False where nothing can be kept. */
export function setLetterShortcuts(act: boolean): boolean {
  try {
    localStorage.setItem(LETTERS, act ? 'on' : 'off');
    return true;
  } catch {
    return false;
  }
}

/** Keys of the whole page work wherever nobody types: also right after a step on a slider. */
const WITH_CONTROL = {
  enableOnFormTags: true,
  ignoreEventWhen: (e: KeyboardEvent) => isTyping(e) || isCovered() || isElsewhere(),
  preventDefault: true,
} as const;

const SINGLE = {
  enableOnFormTags: true,
  ignoreEventWhen: (e: KeyboardEvent) => isTyping(e) || isCovered() || isElsewhere() || !letterShortcuts(),
} as const;

const VIEWS = { r: 'relief', h: 'heights', s: 'slope', t: 'steps', d: 'difference' } as const;

// what another tab edits is not undone here
const whenEditing = (act: () => void) => (): void => {
  if (!useSession.getState().following) act();
};

/** The keys of the page; `onList` shows which there are. */
export function usePageKeys(onList: () => void): void {
  useHotkeys('mod+z', whenEditing(undo), WITH_CONTROL);
  useHotkeys('mod+shift+z, mod+y', whenEditing(redo), WITH_CONTROL);
  useEffect(() => {
    // by the character, not by the place of its key, which differs from keyboard to keyboard
    const onKey = (e: KeyboardEvent): void => {
      if (e.key === '?' && !isTyping(e) && !isCovered() && letterShortcuts()) onList();
    };
    addEventListener('keydown', onKey);
    return () => removeEventListener('keydown', onKey);
  }, [onList]);
  useHotkeys(
    '1,2,3,4,5,6,7',
    (_, h) => {
      const step = STEPS[Number(h.keys?.join('')) - 1];
      if (step) goToStep(step.id);
    },
    SINGLE,
  );
  useHotkeys('c', () => patchSession({ compare: !useSession.getState().compare }), SINGLE);
  useHotkeys('n', () => patchSession({ theme: useSession.getState().theme === 'film' ? 'night' : 'film' }), SINGLE);
  useHotkeys(
    'r,h,s,t,d',
    (_, h) => {
      const view = VIEWS[(h.keys?.join('') ?? '') as keyof typeof VIEWS];
      if (view) patchSession({ view });
    },
    SINGLE,
  );
}
