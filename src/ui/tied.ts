import { Children, type ReactNode } from 'react';

const GAP_IN_NUMBER = /(?<=\d) (?=\d{3}(?!\d))/g;
const GAP_BEFORE_UNIT = /(?<=\d) (?=(?:[µmck]?m|cm|[kMG]?B|bit|%|°)(?![\p{L}\p{N}]))/gu;

/** Text whose numbers stay on one line, with their thousands and their unit. */
export const tied = (text: string): string => text.replace(GAP_IN_NUMBER, '\u00a0').replace(GAP_BEFORE_UNIT, '\u00a0');

/** The same for the words directly inside an element. */
export const tiedChildren = (children: ReactNode): ReactNode =>
  Children.map(children, (child) => (typeof child === 'string' ? tied(child) : child));
