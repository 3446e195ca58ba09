import type { PlanDocument } from '../../plan';
import type { Target } from '../../targets';
import { pageBlocks } from './content';
import { terrainDrawing, tilesDrawing } from './drawings';
import { toHtml } from './html';
import { toMarkdown } from './markdown';

export { typedText } from './content';
export { TerrainPicture } from './picture';
export { PROOF_PAGES, withProofHtml } from './proof-result';

/** The import page of a pack in Markdown: the plan, printed. */
export const importPage = (document: PlanDocument, target: Target): string => toMarkdown(pageBlocks(document, target));

/** The same page as one HTML file to read and to print, with pictures; `terrain`: a PNG of the ground, if there is one. */
export const importPageHtml = (document: PlanDocument, target: Target, terrain: Uint8Array | null): string =>
  toHtml(pageBlocks(document, target), {
    ...(terrain ? { terrain: terrainDrawing(document, terrain) } : {}),
    ...(document.placement.length > 1 ? { tiles: tilesDrawing(document) } : {}),
  });
