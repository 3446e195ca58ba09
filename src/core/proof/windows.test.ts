import type { PlanDocument } from '../plan';
import { checkWindows } from './windows';

const file = (x: number, y: number, width: number, height: number, more: object = {}) => ({
  name: `t-${x}-${y}.png`,
  width,
  height,
  window: { x, y, width, height },
  ...more,
});
const documentOf = (width: number, height: number, ...files: object[]): PlanDocument =>
  ({ fit: { width, height }, files }) as unknown as PlanDocument;

test('files that fill their places within the grid are taken', () => {
  expect(() =>
    checkWindows(documentOf(9, 5, file(0, 0, 5, 5), file(4, 0, 5, 5)), { width: 9, height: 5 }),
  ).not.toThrow();
  expect(() => checkWindows(documentOf(9, 5, file(0, 0, 9, 5)), null)).not.toThrow();
});

test.each([
  ['a grid of another size than the recipe asks for', documentOf(9, 9, file(0, 0, 9, 9))],
  ['a file that reaches beyond the east', documentOf(9, 5, file(5, 0, 5, 5))],
  ['a file that reaches beyond the south', documentOf(9, 5, file(0, 1, 5, 5))],
  ['a place before the first column', documentOf(9, 5, file(-1, 0, 5, 5))],
  ['a place between vertices', documentOf(9, 5, file(0.5, 0, 5, 5))],
  ['a file of no width', documentOf(9, 5, file(0, 0, 0, 5))],
  ['a file of another size than its place', documentOf(9, 5, file(0, 0, 5, 5, { width: 6 }))],
  ['a grid without end', documentOf(1e9, 5, file(0, 0, 5, 5))],
  ['a grid of a part of a vertex', documentOf(9.5, 5, file(0, 0, 5, 5))],
  ['no number', documentOf(NaN, 5, file(0, 0, 5, 5))],
])('%s is refused before anything is compared', (_, document) => {
  expect(() => checkWindows(document, { width: 9, height: 5 })).toThrow(
    expect.objectContaining({ code: 'pack-document', file: 'import.json', remedy: expect.stringMatching(/./) }),
  );
});
