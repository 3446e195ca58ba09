/** Signs that steer a terminal, change the direction of text, or show nothing: with them text is not what it seems. */
const HIDDEN_SET = '\\u0000-\\u001f\\u007f-\\u009f\\u200b-\\u200f\\u2028-\\u202e\\u2060-\\u2069\\ufeff';
const HIDDEN = new RegExp(`[${HIDDEN_SET}]`);
const ALL_HIDDEN = new RegExp(`[${HIDDEN_SET}]`, 'g');

/** The first sign of that kind; null where there is none. */
export const hiddenSign = (text: string): string | null => HIDDEN.exec(text)?.[0] ?? null;

const code = (sign: string): string => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`;

/** Text from outside for one line: hidden signs are written out as their codes (\u001b), line ends too. */
export const oneLine = (text: string): string => text.replace(ALL_HIDDEN, code);

/** Text of several lines for a terminal: hidden signs but line ends are written out as their codes. */
export const manyLines = (text: string): string => text.replace(ALL_HIDDEN, (c) => (c === '\n' ? c : code(c)));

/** Numbers that tell one fault from another: FNV-1a of 32 bits (Fowler, Noll, Vo), as eight hexadecimal digits. */
export function shortNumber(text: string): string {
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return (hash >>> 0).toString(16).toUpperCase().padStart(8, '0');
}
