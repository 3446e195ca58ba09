'use client';
import { useEffect, useRef } from 'react';
import { patchSession, useSession } from '@/state';

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

/** The theme of the page: the system's own until the artist chooses, then the one that was chosen last. */
export function useTheme(): void {
  const theme = useSession((s) => s.theme);
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
}
