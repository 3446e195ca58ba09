import { quantise } from '../height';
import { roomFor, type GroundStatistics, type SpotId } from '../raster';
import type { TileGrid } from '../tiles';
import type { WrittenTarget } from '../targets';
import type { PlanSpot } from './document';
import type { Geometry } from './geometry';
import type { Heights } from './heights';

const LABELS: Record<SpotId, string> = {
  highest: 'Highest',
  lowest: 'Lowest',
  'north-west': 'North-west corner',
  'north-east': 'North-east corner',
  'south-west': 'South-west corner',
  'south-east': 'South-east corner',
  centre: 'Centre',
};

interface SpotsInput {
  readonly ground: GroundStatistics;
  readonly heights: Heights;
  readonly target: WrittenTarget;
  readonly geometry: Geometry;
  readonly origin: { readonly east: number; readonly north: number };
  readonly tiles: TileGrid;
}

/** Places to verify an import in a minute: where, how high, which code. */
export function planSpots({ ground, heights, target, geometry, origin, tiles }: SpotsInput): PlanSpot[] {
  const { calibration, datum, quantiser, range, zero } = heights;
  const unit = target.unit.metres;
  const { inset, width, height } = geometry;
  // where a sample of the file lies in a world that turns it
  const across = (x: number): number => (target.halfTurn ? width - 1 - x : x) + inset;
  const down = (y: number): number => (target.halfTurn ? height - 1 - y : y) + inset;
  return ground.spots.map(({ id, x, y, value: found }) => {
    // counted from the datum of the ground that was measured
    const value = found === null ? null : Math.fround(found + ground.datum - datum);
    const code = roomFor(target.encoding, 1);
    const tally = { below: 0, above: 0, voids: 0 };
    if (value !== null) quantise(code, Float32Array.of(value), quantiser, tally);
    const elevation = value === null ? null : calibration.offset + calibration.unit * value;
    // a clipped spot shows the end of the range
    const clipped = tally.below > 0 ? range.low : tally.above > 0 ? range.high : elevation;
    const tile = tiles.tiles.find(({ window: w }) => x >= w.x && x < w.x + w.width && y >= w.y && y < w.y + w.height);
    return {
      id,
      label: LABELS[id],
      x,
      y,
      file: tile?.name ?? '',
      east: (origin.east + across(x) * geometry.spacing.x) / unit,
      north: (origin.north - down(y) * geometry.spacing.y) / unit,
      height: clipped === null ? null : (clipped - zero) / unit,
      elevation,
      code: value === null ? null : (code[0] ?? 0),
    };
  });
}
