/* Keys of a GeoTIFF (OGC 19-008r4), as they are read and written. */

export const KEYS = {
  model: 1024,
  raster: 1025,
  geographic: 2048,
  geographicText: 2049,
  angular: 2054,
  projected: 3072,
  projectedText: 3073,
  linear: 3076,
  vertical: 4099,
} as const;

/** Values of `model`. */
export const PROJECTED = 1;
export const GEOGRAPHIC = 2;
/** Of `raster`: the place given is that of the north-western sample itself. */
export const POINTS = 2;
export const DEGREE = 9102;
export const METRE = 9001;
/** Stands for what the file describes itself. */
export const USER_DEFINED = 32767;

/** Metres of the units of length that are met in height data, by their code in the register of units. */
export const METRES: Readonly<Record<number, number>> = { [METRE]: 1, 9002: 0.3048, 9003: 1200 / 3937, 9036: 1000 };
