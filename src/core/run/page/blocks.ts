/** Text, of which parts stand out. */
export type Text = string | readonly (string | { readonly strong: string })[];

/** What an import page is made of, whatever it is printed as. */
export type Block =
  | { readonly kind: 'title' | 'heading'; readonly text: string }
  | { readonly kind: 'paragraph'; readonly text: Text }
  | { readonly kind: 'list' | 'steps'; readonly items: readonly Text[] }
  /** `numbers`: columns whose cells stand at the right, in one line; `names`: those that may break anywhere. */
  | {
      readonly kind: 'table';
      readonly head: readonly string[];
      readonly rows: readonly (readonly string[])[];
      readonly numbers?: readonly number[];
      readonly names?: readonly number[];
    }
  | { readonly kind: 'picture'; readonly of: 'terrain' | 'tiles'; readonly caption: string }
  /** Where the result of the proof stands, or that there is none. */
  | { readonly kind: 'proof'; readonly lines: readonly string[] };

export const partsOf = (text: Text): readonly (string | { readonly strong: string })[] =>
  typeof text === 'string' ? [text] : text;
