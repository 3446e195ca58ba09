/** A printed page as a person reads it, whatever it is printed as. */
export interface ReadPage {
  /** Paragraphs outside lists and tables. */
  readonly paragraphs: readonly Paragraph[];
  /** Items of lists, in order; what the proof has found stands among them. */
  readonly items: readonly { readonly text: string; readonly under: string }[];
  /** Rows of the first table below each heading, without its head. */
  readonly tables: ReadonlyMap<string, readonly (readonly string[])[]>;
}

export interface Paragraph {
  readonly text: string;
  /** All of it stands out. */
  readonly strong: boolean;
}

/** Puts a page together, piece by piece from its top. */
export class PageBuilder {
  private heading = '';
  private readonly paragraphs: Paragraph[] = [];
  private readonly items: { text: string; under: string }[] = [];
  private readonly tables = new Map<string, readonly (readonly string[])[]>();

  title(text: string): void {
    this.heading = text;
  }

  paragraph(text: string, strong: boolean): void {
    this.paragraphs.push({ text, strong });
  }

  item(text: string): void {
    this.items.push({ text, under: this.heading });
  }

  table(rows: readonly (readonly string[])[]): void {
    if (!this.tables.has(this.heading)) this.tables.set(this.heading, rows);
  }

  done = (): ReadPage => ({ paragraphs: this.paragraphs, items: this.items, tables: this.tables });
}

/** Blanks of any kind are one blank. */
export const plain = (text: string): string => text.replace(/[\s\u00a0]+/g, ' ').trim();

/** Numbers as they are printed, with groups of three and a long minus: `41 500.63, −7`; null for anything else. */
export function numbersOf(cell: string): number[] | null {
  const parts = cell.split(',').map((part) => part.replace(/[\s\u00a0]/g, '').replace(/−/g, '-'));
  const numbers = parts.map((part) => (/^-?\d+(\.\d+)?$/.test(part) ? Number(part) : NaN));
  return numbers.some((n) => Number.isNaN(n)) ? null : numbers;
}
