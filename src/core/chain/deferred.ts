import { orientedSides, placeAfter, placeBefore, verticesOn, type Deferred, type Stage } from '../operations';
import type { MetricVertices } from '../squares';
import type { PlaceOnGround } from './lying';

/** Where the vertices of a fit lie on the stage that enters it. */
interface OnStage {
  readonly width: number;
  readonly height: number;
  /** Of the north-western vertex, and from vertex to vertex, in samples of the stage. */
  readonly sourceStart: PlaceOnGround;
  readonly sourcePerVertex: PlaceOnGround;
}

/** This much beyond the outermost samples, in samples, a vertex still lies on the ground. */
const ON_GROUND = 1e-6;

/** The vertices of a fit on ground that comes to lie there no sooner, before quarter turns and mirrors. */
export function metricVertices({ info, orientation }: Stage, deferred: Deferred, fit: OnStage): MetricVertices {
  const { width, height } = orientedSides(orientation, fit);
  const { swap } = orientation;
  // the vertex that lies in the north-west before it is turned
  const first = placeAfter(orientation, { width, height }, { x: 0, y: 0 });
  const { sourceStart: start, sourcePerVertex: per } = fit;
  const corner = placeBefore(orientation, info, { x: start.x + first.x * per.x, y: start.y + first.y * per.y });
  const across = swap ? per.y : per.x;
  const down = swap ? per.x : per.y;
  const [west, east] = coveredBetween(corner.x, across, width, info.width);
  const [north, south] = coveredBetween(corner.y, down, height, info.height);
  return verticesOn(deferred, {
    origin: [corner.x, corner.y],
    across: [across, 0],
    down: [0, down],
    width,
    height,
    covered: { west, east, north, south },
  });
}

/** First and last of `count` vertices, `per` samples apart from sample `start` on, that lie on `samples` samples. */
function coveredBetween(start: number, per: number, count: number, samples: number): readonly [number, number] {
  const first = Math.max(0, Math.ceil((0 - start - ON_GROUND) / per));
  const last = Math.min(count - 1, Math.floor((samples - 1 - start + ON_GROUND) / per));
  return [first, last];
}
