import { MAP_COLOURS, type MapColours, type Rgb } from '@/core/relief';

/** The two themes. Every colour of the page stands here: CSS has them as variables, canvases and charts as they are. */
export interface Palette {
  readonly film: string;
  readonly panel: string;
  readonly ink: string;
  readonly quiet: string;
  readonly rule: string;
  readonly strong: string;
  readonly kelp: string;
  readonly 'kelp-wash': string;
  readonly 'on-kelp': string;
  readonly ochre: string;
  readonly madder: string;
}

const hex = (rgb: Rgb): string => `#${rgb.map((c) => c.toString(16).padStart(2, '0')).join('')}`;

/** Ink and paper are those of the map. */
const ofMap = ({ ink, paper, sheet }: MapColours): Pick<Palette, 'film' | 'panel' | 'ink'> => ({
  film: hex(paper),
  panel: hex(sheet),
  ink: hex(ink),
});

export const PALETTE: Readonly<Record<'film' | 'night', Palette>> = {
  film: {
    ...ofMap(MAP_COLOURS.film),
    quiet: '#52626a',
    rule: '#c3ccc5',
    strong: '#8d9a94',
    kelp: '#0b6a5d',
    'kelp-wash': '#dbe9e2',
    'on-kelp': '#ffffff',
    ochre: '#8a5a08',
    madder: '#b23a2e',
  },
  night: {
    ...ofMap(MAP_COLOURS.night),
    quiet: '#9fb0b0',
    rule: '#33424a',
    strong: '#61737b',
    kelp: '#4fb3a1',
    'kelp-wash': '#1d3a38',
    'on-kelp': '#0c1816',
    ochre: '#dba544',
    madder: '#ea8375',
  },
};

/** Lines drawn over the ground, which has the same tints in both themes: dark, light, and the section line. */
export const OVER_GROUND = { dark: '#101a1f', light: PALETTE.film.panel, line: PALETTE.film.kelp } as const;

const variables = (of: Palette): string =>
  Object.entries(of)
    .map(([name, colour]) => `--${name}:${String(colour)}`)
    .join(';');

/** The same as variables of CSS. */
export const paletteCss = (): string =>
  `:root{${variables(PALETTE.film)}}[data-theme='night']{${variables(PALETTE.night)}}`;
