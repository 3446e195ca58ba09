import type { JobContext } from '../../base';
import type { Recipe } from '../../recipe';
import { acrossAll, seedOf } from './places';

/** Triangles as a file holds them. */
interface Triangles {
  readonly positions: Float64Array;
  readonly triangles: Uint32Array;
}

interface Rastered {
  readonly info: { readonly width: number; readonly height: number };
  bands(
    job?: JobContext,
  ): AsyncGenerator<{ readonly y: number; readonly rows: number; readonly data: ArrayLike<number | bigint> }>;
}

/** What a mesh gives, looked at triangle by triangle. */
export interface MeshProof {
  readonly places: number;
  /** Places whose height is none that the mesh has there, and the first of them. */
  readonly wrong: number;
  readonly first: {
    readonly column: number;
    readonly row: number;
    readonly found: number;
    readonly expected: number;
  } | null;
  /** The raster has the size that mesh, spacing and volume give. */
  readonly size: boolean;
}

/** A side of a triangle may be missed or met by this much, in metres per metre of spacing. */
const NEAR = 4e-6;

/** Nearly all around. */
const WHOLE_TURN = 2 * Math.PI - 1e-3;

type Point = readonly [number, number];

/** How much of a turn around a place on the border of a triangle lies in it: half on a side, less in a corner. */
function turnAt(place: { readonly x: number; readonly y: number }, a: Point, b: Point, c: Point, near: number): number {
  const at = [a, b, c].find(([x, y]) => Math.hypot(x - place.x, y - place.y) <= 2 * near);
  if (!at) return Math.PI;
  const [p, q] = [a, b, c].filter((corner) => corner !== at) as [Point, Point];
  const angle = Math.atan2(p[1] - at[1], p[0] - at[0]) - Math.atan2(q[1] - at[1], q[0] - at[0]);
  const turn = Math.abs(angle) % (2 * Math.PI);
  return turn > Math.PI ? 2 * Math.PI - turn : turn;
}

/** The highest that a place is said to hold. */
const heightOf = ({ inside, touched }: { inside: number; touched: readonly (readonly [number, number])[] }): number =>
  touched.reduce((most, [, z]) => Math.max(most, z), inside);

/**
 * The highest surface at places of which each row and each column holds one at least, by going through all triangles and weighing their corners by the
 * areas that a place cuts off. Where a place lies on a border, with and without the triangle are both right.
 */
export async function proveMesh(
  raster: Rastered,
  { positions, triangles }: Triangles,
  { mesh, spacing }: Pick<Recipe['source'], 'mesh' | 'spacing'>,
  job: JobContext,
): Promise<MeshProof> {
  const { up = 'z', metres = 1, volume } = mesh ?? {};
  const finite = (t: number): boolean =>
    [0, 1, 2].every((k) => [0, 1, 2].every((axis) => Number.isFinite(positions[3 * triangles[t + k]! + axis]!)));
  const east = (v: number): number => positions[3 * v]! * metres;
  const north = (v: number): number => (up === 'z' ? positions[3 * v + 1]! : -positions[3 * v + 2]!) * metres;
  const high = (v: number): number => (up === 'z' ? positions[3 * v + 2]! : positions[3 * v + 1]!) * metres;
  let [west, most, least, top] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let t = 0; t < triangles.length; t += 3) {
    if (!finite(t)) continue;
    for (let k = 0; k < 3; k++) {
      const v = triangles[t + k]!;
      west = Math.min(west, east(v));
      most = Math.max(most, east(v));
      least = Math.min(least, north(v));
      top = Math.max(top, north(v));
    }
  }
  if (volume) [west, least, most, top] = [volume.min[0], volume.min[1], volume.max[0], volume.max[1]];
  const { width, height } = raster.info;
  const count = (length: number): number => Math.floor(length / spacing + 1e-6) + 1;
  const spots = acrossAll(width, height, seedOf([`${width} ${height} ${triangles.length}`])).map(({ x, y }) => ({
    column: x,
    row: y,
    x: west + x * spacing,
    y: top - y * spacing,
    inside: -Infinity,
    /** Heights of the triangles that end here: of a wall its lowest and highest. */
    touched: [] as [low: number, high: number][],
    /** How much of a turn around it these cover. */
    turn: 0,
    found: NaN,
  }));
  const byRow = Array.from({ length: height }, (): typeof spots => []);
  for (const s of spots) byRow[s.row]!.push(s);
  const near = NEAR * spacing;
  for (let t = 0; t < triangles.length; t += 3) {
    if (!finite(t)) continue;
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const [ax, ay, bx, by, cx, cy] = [east(a), north(a), east(b), north(b), east(c), north(c)];
    const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
    const longest = Math.max(Math.hypot(bx - ax, by - ay), Math.hypot(cx - bx, cy - by), Math.hypot(ax - cx, ay - cy));
    const [lowX, highX] = [Math.min(ax, bx, cx) - near, Math.max(ax, bx, cx) + near];
    const [lowY, highY] = [Math.min(ay, by, cy) - near, Math.max(ay, by, cy) + near];
    const first = Math.max(0, Math.ceil((top - highY) / spacing));
    const last = Math.min(height - 1, Math.floor((top - lowY) / spacing));
    for (const s of first <= last ? byRow.slice(first, last + 1).flat() : []) {
      if (s.x < lowX || s.x > highX || s.y < lowY || s.y > highY) continue;
      if (Math.abs(area) <= near * longest) {
        // a wall, seen from above as a line: any height of it may be met
        const ends = [high(a), high(b), high(c)];
        s.touched.push([Math.min(...ends), Math.max(...ends)]);
        continue;
      }
      const u = ((bx - s.x) * (cy - s.y) - (cx - s.x) * (by - s.y)) / area;
      const v = ((cx - s.x) * (ay - s.y) - (ax - s.x) * (cy - s.y)) / area;
      const w = 1 - u - v;
      const slack = (near * longest) / Math.abs(area);
      const z = u * high(a) + v * high(b) + w * high(c);
      const least = Math.min(u, v, w);
      if (least >= slack) s.inside = Math.max(s.inside, z);
      else if (least >= -slack) {
        s.touched.push([z, z]);
        s.turn += turnAt(s, [ax, ay], [bx, by], [cx, cy], near);
      }
    }
  }
  for await (const { y, rows, data } of raster.bands(job))
    for (const s of spots) if (s.row >= y && s.row < y + rows) s.found = Number(data[(s.row - y) * width + s.column]);
  const fits = ({ found, inside, touched, turn }: (typeof spots)[number]): boolean => {
    // heights are kept as floats of 32 bits
    const slackOf = (z: number): number => 1e-3 + Math.abs(z) * 2 ** -22;
    const highest = touched.reduce((most, [, z]) => Math.max(most, z), -Infinity);
    // sheets that end above each other may all be missed where they do
    const apart = touched.some(([z]) => z < highest - slackOf(highest));
    if (Number.isNaN(found)) return inside === -Infinity && (apart || turn < WHOLE_TURN);
    // what ends here may be missed or met, and what lies under it is hidden by what is met
    if (inside > -Infinity && Math.abs(found - inside) <= slackOf(inside)) return true;
    return touched.some(
      ([low, top]) => found >= low - slackOf(low) && found <= top + slackOf(top) && found >= inside - slackOf(inside),
    );
  };
  const wrong = spots.filter((s) => !fits(s));
  const [first] = wrong;
  return {
    places: spots.length,
    wrong: wrong.length,
    first: first ? { column: first.column, row: first.row, found: first.found, expected: heightOf(first) } : null,
    size: width === count(most - west) && height === count(top - least),
  };
}
