import '@fontsource/barlow-semi-condensed/latin-400.css';
import '@fontsource/barlow-semi-condensed/latin-600.css';
import '@fontsource/spline-sans-mono/latin-400.css';
import '@fontsource/spline-sans-mono/latin-600.css';
import './globals.css';
import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import { paletteCss } from '@/features/palette';

export const metadata: Metadata = {
  title: 'Level Grid',
  description: 'Terrain heightmaps, converted for a correct import and proved.',
};

export default function RootLayout({ children }: { children: ReactNode }) {
  return (
    // the theme is set before the first paint by the application itself
    <html lang="en" data-theme="film" suppressHydrationWarning>
      <head>
        <style>{paletteCss()}</style>
      </head>
      <body>{children}</body>
    </html>
  );
}
