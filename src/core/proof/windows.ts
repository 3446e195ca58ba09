import { LevelGridError } from '../base';
import type { PlanDocument } from '../plan';

/** More vertices along a side than any target takes. */
const MOST_VERTICES = 65536;

/**
 * A document that came with a pack must describe files that lie within its own grid, and the grid that its recipe asks
 * for: everything that compares leans on that. Throws `pack-document`.
 */
export function checkWindows(document: PlanDocument, asked: { width: number; height: number } | null): void {
  const { width, height } = document.fit;
  const side = (n: number, most: number): boolean => Number.isInteger(n) && n >= 1 && n <= most;
  if (!side(width, MOST_VERTICES) || !side(height, MOST_VERTICES))
    throw wrong(`a grid of ${width} × ${height} vertices`, `whole numbers from 1 to ${MOST_VERTICES}`);
  if (asked && (asked.width !== width || asked.height !== height))
    throw wrong(`a grid of ${width} × ${height} vertices`, `${asked.width} × ${asked.height}, as the recipe says`);
  for (const { name, window: w, width: fileWidth, height: fileHeight } of document.files) {
    const inside =
      Number.isInteger(w.x) &&
      Number.isInteger(w.y) &&
      w.x >= 0 &&
      w.y >= 0 &&
      side(w.width, width - w.x) &&
      side(w.height, height - w.y);
    if (!inside || fileWidth !== w.width || fileHeight !== w.height)
      throw wrong(
        `${name} with ${fileWidth} × ${fileHeight} samples at ${w.x}, ${w.y} (${w.width} × ${w.height})`,
        `a file that fills its place within ${width} × ${height} vertices`,
      );
  }
}

const wrong = (found: string, expected: string): LevelGridError =>
  new LevelGridError('pack-document', {
    file: 'import.json',
    found,
    expected,
    remedy: 'Take import.json and recipe.json as they were written, or make the pack again.',
  });
