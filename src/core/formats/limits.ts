/** Largest side read; larger sides are written by nobody and would only cost memory. */
export const MAX_SIDE = 65536;
