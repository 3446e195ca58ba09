import { DOUBLE, SHORT, type Entry } from './directory-entries';

/** Where the north-western sample lies, and how far the next one is: in degrees, or in metres. */
export interface Placement {
  readonly west: number;
  readonly north: number;
  readonly step: number;
  readonly degrees: boolean;
}

/** Keys of the placement: points (1025 = 2) in degrees (2048 = 4326, 2054 = 9102), or in metres; heights in metres. */
const IN_DEGREES = [1, 1, 0, 5, 1024, 0, 1, 2, 1025, 0, 1, 2, 2048, 0, 1, 4326, 2054, 0, 1, 9102, 4099, 0, 1, 9001];
const IN_METRES = [1, 1, 0, 4, 1024, 0, 1, 1, 1025, 0, 1, 2, 3076, 0, 1, 9001, 4099, 0, 1, 9001];

/** Spacing, tie point and keys (GeoTIFF 1.1): samples are points, so the tie point is the north-western sample itself. */
export const placementEntries = ({ west, north, step, degrees }: Placement): readonly Entry[] => [
  [33550, DOUBLE, [step, step, 0]],
  [33922, DOUBLE, [0, 0, 0, west, north, 0]],
  [34735, SHORT, degrees ? IN_DEGREES : IN_METRES],
];
