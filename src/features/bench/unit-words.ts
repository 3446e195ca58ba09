import type { HeightUnit } from '@/core/raster';

export const UNIT_WORDS: Readonly<Record<HeightUnit, string>> = {
  metre: 'metres',
  decimetre: 'decimetres',
  centimetre: 'centimetres',
  foot: 'feet',
  'us-survey-foot': 'US survey feet',
};
