import { LevelGridError } from '../base';
import { perSample, placeOf, spansOf, type RasterInfo, type Registrations } from '../raster';
import type { Recipe } from '../recipe';
import type { Target } from '../targets';

/** The fitted ground across. */
export interface Geometry {
  readonly width: number;
  readonly height: number;
  /** World metres between vertices. */
  readonly spacing: { readonly x: number; readonly y: number };
  /** (n − 1)·spacing of vertices, n·spacing of cells. */
  readonly extent: { readonly x: number; readonly y: number };
  /** What samples are in the source and in the result. */
  readonly registrations: Registrations;
  /** Where the first sample lies within the extent, in spacings: vertices stand on its edge, cells half of one inside. */
  readonly inset: 0 | 0.5;
  /** Source position of result vertex 0 and source samples per result vertex. */
  readonly sourceStart: { readonly x: number; readonly y: number };
  readonly sourcePerVertex: { readonly x: number; readonly y: number };
  /** Result vertices on each side that no source sample reaches. */
  readonly rim: { readonly west: number; readonly east: number; readonly north: number; readonly south: number };
  /** Source samples on each side that the result leaves out. */
  readonly cut: { readonly west: number; readonly east: number; readonly north: number; readonly south: number };
}

export function sizeOf(recipe: Recipe): { width: number; height: number } {
  const { size } = recipe.fit;
  return typeof size === 'number' ? { width: size, height: size } : { width: size[0], height: size[1] };
}

/** What samples of the source and of the target's files are. */
export const registrationsOf = (recipe: Recipe, target: Pick<Target, 'registration'>): Registrations => ({
  source: recipe.source.registration ?? 'vertex',
  result: target.registration,
  hold: recipe.fit.mixed === 'centre-to-centre' ? 'centres' : 'extent',
});

/** Where the fitted grid lies on the raster that enters the fit, `spacing` metres from sample to sample, through ground metres. */
export function fitGeometry(
  recipe: Recipe,
  source: Pick<RasterInfo, 'width' | 'height'>,
  registrations: Registrations,
  spacing = recipe.source.spacing,
): Geometry {
  const { width, height } = sizeOf(recipe);
  const { method, at, worldScale } = recipe.fit;
  const ground = spacing * worldScale;
  const { result } = registrations;
  const inset = result === 'cell' ? 0.5 : 0;
  if (method === 'resample') {
    const per = {
      x: perSample(source.width, width, registrations),
      y: perSample(source.height, height, registrations),
    };
    const none = { west: 0, east: 0, north: 0, south: 0 };
    const steps = { x: ground * per.x, y: ground * per.y };
    // vertices keep the extent of their source as it is, not what rounding leaves of it
    const plain = registrations.source === result && result === 'vertex';
    return {
      width,
      height,
      registrations,
      inset,
      spacing: steps,
      extent: plain
        ? { x: ground * (source.width - 1), y: ground * (source.height - 1) }
        : { x: steps.x * spansOf(result, width), y: steps.y * spansOf(result, height) },
      sourceStart: {
        x: placeOf(0, source.width, width, registrations),
        y: placeOf(0, source.height, height, registrations),
      },
      sourcePerVertex: per,
      rim: none,
      cut: none,
    };
  }
  const start = method === 'crop' ? { x: at[0], y: at[1] } : { x: 0 - at[0], y: 0 - at[1] };
  const over = (value: number): number => Math.max(0, value);
  return {
    width,
    height,
    registrations,
    inset,
    spacing: { x: ground, y: ground },
    extent: { x: ground * spansOf(result, width), y: ground * spansOf(result, height) },
    sourceStart: start,
    sourcePerVertex: { x: 1, y: 1 },
    rim: {
      west: Math.min(width, over(-start.x)),
      north: Math.min(height, over(-start.y)),
      east: Math.min(width, over(start.x + width - source.width)),
      south: Math.min(height, over(start.y + height - source.height)),
    },
    cut: {
      west: over(start.x),
      north: over(start.y),
      east: over(source.width - start.x - width),
      south: over(source.height - start.y - height),
    },
  };
}

/** Samples of the result lie on samples of the source, one on each. */
export const meetsSamples = ({ sourceStart: a, sourcePerVertex: per }: Geometry): boolean =>
  a.x === 0 && a.y === 0 && per.x === 1 && per.y === 1;

/** Ground must have an extent, a crop must lie inside the source, and padding must meet it. */
export function geometryRefusal(
  recipe: Recipe,
  source: Pick<RasterInfo, 'width' | 'height'>,
  g: Geometry,
): LevelGridError | null {
  const { method, at } = recipe.fit;
  if (method === 'resample' && (source.width < 2 || source.height < 2)) {
    return new LevelGridError('no-extent', {
      found: `a source of ${source.width} × ${source.height} ${source.width * source.height === 1 ? 'sample' : 'samples'}, which has no extent to resample`,
      expected: 'at least 2 samples each way',
      remedy: 'Fit it by padding, or bring in a raster with more samples.',
    });
  }
  if (method === 'crop' && (g.rim.west || g.rim.east || g.rim.north || g.rim.south)) {
    return new LevelGridError('crop-outside', {
      found: `a crop of ${g.width} × ${g.height} from column ${at[0]}, row ${at[1]}`,
      expected: `a window inside the ${source.width} × ${source.height} samples of the source`,
      remedy: 'Choose a smaller size or another first column and row, or pad.',
    });
  }
  if (
    method === 'pad' &&
    (g.rim.west >= g.width || g.rim.east >= g.width || g.rim.north >= g.height || g.rim.south >= g.height)
  ) {
    return new LevelGridError('crop-outside', {
      found: `padding that puts the source at column ${at[0]}, row ${at[1]} of ${g.width} × ${g.height}`,
      expected: 'a place where source and result meet',
      remedy: 'Choose another column and row.',
    });
  }
  return null;
}
