/** The choices of a recipe in the words of the page, by their path. */
const WORDS: Readonly<Record<string, string>> = {
  'source.heights': 'what the numbers of the source stand for',
  'source.heights.low': 'the elevation of code 0',
  'source.heights.high': 'the elevation of the highest code',
  'source.heights.step': 'the metres of one code',
  'source.heights.base': 'the elevation of code 0',
  'source.heights.unit': 'the unit of the heights',
  'source.heights.stretch': 'the stretch of the heights',
  'source.squares': 'the square metres',
  'source.blend': 'the seams',
  'source.files': 'the files of the source',
  'source.curve': 'the display curve',
  'source.low': 'the elevation of code 0',
  'source.high': 'the elevation of the highest code',
  steps: 'the steps before the fit',
  'source.spacing': 'the spacing of the source',
  'source.raw': 'the layout of the headerless file',
  target: 'the target',
  'fit.size': 'the vertices per side',
  'fit.method': 'what is done to the ground',
  'fit.filter': 'the filter',
  'fit.at': 'the first column and row',
  'fit.atMost': 'the ceiling of vertices per side',
  'fit.rim': 'the elevation of the rim',
  'fit.voids': 'the elevation that voids get',
  'fit.worldScale': 'the world scale',
  'fit.layout': 'the component layout',
  'height.low': 'the elevation of the lowest code',
  'height.high': 'the elevation of the highest code',
  'height.below': 'the room below',
  'height.above': 'the room above',
  'height.scale': 'the fixed height scale or range',
  'height.anchor': 'the anchor of the fixed scale',
  'height.exaggeration': 'the factor on heights',
  'height.sea': 'the sea level',
  'split.across': 'the tiles across',
  'split.down': 'the tiles down',
  'split.pattern': 'the name pattern',
};

/** A choice in the words of the page with its key behind; only the key where the page has no word for it. */
export function inWords(path: readonly string[]): string {
  const key = `"${path.join('.')}"`;
  for (let n = path.length; n > 0; n--) {
    const at = path.slice(0, n).join('.');
    if (Object.hasOwn(WORDS, at)) return `${WORDS[at]} (${key})`;
  }
  return key;
}

/** Nothing lies at this path of the document. */
export function isMissing(document: unknown, path: readonly string[]): boolean {
  let value = document;
  for (const key of path) {
    if (typeof value !== 'object' || value === null || !Object.hasOwn(value, key)) return true;
    value = (value as Record<string, unknown>)[key];
  }
  return false;
}

/** The value at a path, as far as it can be shown in a sentence. */
export function shown(document: unknown, path: readonly string[]): string | null {
  let value = document;
  for (const key of path) {
    if (typeof value !== 'object' || value === null || !Object.hasOwn(value, key)) return null;
    value = (value as Record<string, unknown>)[key];
  }
  if (typeof value === 'string') return value.length > 40 ? null : JSON.stringify(value);
  return typeof value === 'number' || typeof value === 'boolean' || value === null ? String(value) : null;
}
