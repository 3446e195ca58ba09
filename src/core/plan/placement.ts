import type { RectangleLayout } from '../grid';
import { placementOrder, type TileGrid } from '../tiles';
import type { Target } from '../targets';
import type { Placement } from './document';
import type { Geometry } from './geometry';

/** Where each tile goes, ordered so that each touches one already placed. */
export function placementTable(
  grid: TileGrid,
  geometry: Geometry,
  target: Target,
  layout: RectangleLayout | null,
  origin: { east: number; north: number },
): Placement[] {
  const unit = target.unit.metres;
  const at = (west: number, north: number): string | null =>
    west < 0 || north < 0 || west >= grid.across || north >= grid.down
      ? null
      : (grid.tiles[north * grid.across + west]?.name ?? null);
  return placementOrder(grid).flatMap((index, order) => {
    const tile = grid.tiles[index];
    if (!tile) return [];
    const { fromWest, fromNorth, window } = tile;
    return [
      {
        order: order + 1,
        file: tile.name,
        column: tile.column,
        row: tile.row,
        window,
        east: (origin.east + window.x * geometry.spacing.x) / unit,
        north: (origin.north - window.y * geometry.spacing.y) / unit,
        componentsEast: layout ? fromWest * layout.componentsX : null,
        componentsSouth: layout ? fromNorth * layout.componentsY : null,
        neighbours: [
          at(fromWest, fromNorth - 1),
          at(fromWest + 1, fromNorth),
          at(fromWest, fromNorth + 1),
          at(fromWest - 1, fromNorth),
        ].filter((n) => n !== null),
      },
    ];
  });
}
