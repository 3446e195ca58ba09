import { elevationsOf, quantise, type QuantiseTally } from '../height';
import { boundsToCount, clipBounds, plan, type Plan, type PlanDocument, type SourceFacts } from '../plan';
import { GroundCollector, type Band, type Codes, type GroundStatistics } from '../raster';
import type { Recipe } from '../recipe';
import { TerrainPicture } from './page';

/** The span of what enters the fit in height samples: what a histogram of the ground is expected to fill. */
export function spanOf({ work: { entering, fit } }: Plan): { low: number; high: number } {
  return { low: (entering.stats?.min ?? 0) - fit.datum, high: (entering.stats?.max ?? 0) - fit.datum };
}

/** Makes the codes of fitted ground, and notes what the plan of a pack must know of it. */
export class GroundRecord {
  private readonly collector: GroundCollector;
  private readonly drawn: TerrainPicture;
  private readonly counted: QuantiseTally = { below: 0, above: 0, voids: 0 };

  constructor(
    private readonly recipe: Recipe,
    /** The plan by which the codes are made. */
    private readonly current: Plan,
    /** What was measured before, where the range follows the ground. */
    private readonly measured: GroundStatistics | null,
  ) {
    const { geometry, fit } = current.work;
    const bounds = boundsToCount(recipe, current.work);
    this.drawn = new TerrainPicture(geometry.width, geometry.height);
    this.collector = new GroundCollector(geometry.width, geometry.height, spanOf(current), bounds, fit.datum);
  }

  /** The codes of a band go into `codes`. */
  add(band: Band, codes: Codes): void {
    this.collector.add(band);
    quantise(codes, band.place ?? band.data, this.current.work.quantiser, this.counted);
    this.drawn.add(band.y, codes);
  }

  /** A small picture of the codes as a PNG, when all bands were added. */
  picture = ({ height, fit }: PlanDocument): Uint8Array =>
    this.drawn.png(elevationsOf(this.current.work.quantiser, height).each, height.step, fit.spacing);

  /** Clipped samples and voids so far. */
  get tally(): Readonly<QuantiseTally> {
    return this.counted;
  }

  /** The plan of the pack, when all bands were added. */
  plan = (facts: SourceFacts): Plan => plan(this.recipe, facts, this.asWritten());

  /** The ground that was written, with the clipped samples that were counted as their codes were made. */
  private asWritten(): GroundStatistics {
    const { measured, counted } = this;
    const written = this.collector.result();
    const bounds = clipBounds(this.current.work.quantiser);
    const outside = bounds && { ...bounds, below: counted.below, above: counted.above };
    if (!measured) return { ...written, outside };
    // a range that follows the ground is the one that was measured before: the files were written with it
    const by = written.datum - measured.datum;
    const moved = (value: number | null): number | null => (value === null ? null : value + by);
    return {
      ...measured,
      outside: outside && { ...outside, low: outside.low + by, high: outside.high + by },
      spots: written.spots.map((s) => ({ ...s, value: moved(s.value) })),
    };
  }
}
