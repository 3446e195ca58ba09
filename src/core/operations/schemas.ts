import * as z from 'zod';
import { blendSchema } from './blend/schema';
import { fillVoidsSchema } from './fill-voids/schema';
import { despikeSchema } from './despike/schema';
import { healStepsSchema } from './heal-steps/schema';
import { smoothSchema } from './smooth/schema';
import { seaSchema } from './sea/schema';
import { levelsSchema } from './levels/schema';
import { rangeSchema } from './range/schema';
import { cropSchema } from './crop/schema';
import { padSchema } from './pad/schema';
import { riverSchema } from './river/schema';
import { lakeSchema } from './lake/schema';
import { areaSchema } from './area/schema';
import { rotateSchema } from './rotate/schema';
import { warpSchema } from './warp/schema';
import { lineariseSchema } from './linearise/schema';
import { mirrorSchema } from './mirror/schema';
import { reprojectSchema } from './reproject/schema';
import { swapAxesSchema } from './swap-axes/schema';
import { turnSchema } from './turn/schema';
import { valuesSchema } from './values/schema';

export { reprojectSchema };

/** What a recipe says of a step, by what it does. Apart from the operations themselves, so that a recipe can be read without them. */
export const stepSchema = z.discriminatedUnion('op', [
  turnSchema,
  mirrorSchema,
  swapAxesSchema,
  valuesSchema,
  lineariseSchema,
  blendSchema,
  reprojectSchema,
  fillVoidsSchema,
  despikeSchema,
  healStepsSchema,
  smoothSchema,
  seaSchema,
  levelsSchema,
  rangeSchema,
  cropSchema,
  padSchema,
  riverSchema,
  lakeSchema,
  areaSchema,
  rotateSchema,
  warpSchema,
]);

export type Step = z.infer<typeof stepSchema>;
export type StepId = Step['op'];
export type StepOf<K extends StepId> = Extract<Step, { op: K }>;
