/** What a .prj says of the coordinates beside it: well-known text, of which only the unit and the name matter here. */
export interface Projection {
  readonly crs: string | null;
  readonly degrees: boolean;
  /** Metres of one unit; null for degrees, and where nothing is said. */
  readonly metres: number | null;
  /** The well-known text itself. */
  readonly text?: string;
}

/** Reads well-known text of a coordinate reference system, or the older lines of keys and words; null for anything else. */
export function parseProjection(text: string): Projection | null {
  const name = /^\s*(PROJCS|GEOGCS|PROJCRS|GEOGCRS)\s*\[\s*"([^"]{1,200})"/i.exec(text);
  if (name) {
    const crs = name[2]?.replace(/_/g, ' ') ?? null;
    if (/^GEOG/i.test(name[1] ?? '')) return { crs, degrees: true, metres: null };
    // the unit of the coordinates is the last one; one before it is that of the angles
    const units = [...text.matchAll(/(?:LENGTH)?UNIT\s*\[\s*"([^"]*)"\s*,\s*([-+.\deE]+)/gi)];
    const metres = Number(units.at(-1)?.[2]);
    return { crs, degrees: false, metres: metres > 0 && Number.isFinite(metres) ? metres : null, text };
  }
  const projection = /^\s*projection\s+(\S+)/im.exec(text)?.[1];
  if (projection === undefined) return null;
  const units = /^\s*units\s+(\S+)/im.exec(text)?.[1]?.toLowerCase();
  const degrees = /^geographic$/i.test(projection) || units === 'dd';
  const metres = units === 'meters' || units === 'metres' ? 1 : units === 'feet' ? 0.3048 : null;
  return { crs: projection.slice(0, 200), degrees, metres: degrees ? null : metres };
}
