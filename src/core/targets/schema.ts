import * as z from 'zod';

/** Which vertex counts a target accepts. */
const gridRule = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('components'),
    /** Quads a patch may have along its side, ascending. */
    quads: z.array(z.int().min(1)).min(1),
    /** Patches along the side of a component. */
    patches: z.array(z.int().min(1)).min(1),
    maxComponents: z.int().min(1),
  }),
  z.strictObject({
    kind: z.literal('power-of-two-plus-one'),
    min: z.int().min(3),
    max: z.int().min(3),
  }),
]);
export type GridRule = z.infer<typeof gridRule>;

/** How a code becomes a height in the target's world. */
const heightRule = z.discriminatedUnion('kind', [
  /** height = (code − middle)/divisor · scale + offset, in target units; scale 100 is the target's own default. */
  z.strictObject({ kind: z.literal('centred'), middle: z.int(), divisor: z.number().positive() }),
  /** height = code/highest · range + base, in metres. */
  z.strictObject({ kind: z.literal('span') }),
]);
export type HeightRule = z.infer<typeof heightRule>;

const step = z.strictObject({ when: z.enum(['before', 'type', 'after', 'look']), text: z.string().min(1) });

/** A target: what one kind of engine or editor accepts, asks for and silently does. Data, not code. */
export const targetSchema = z.strictObject({
  id: z.string().regex(/^[a-z0-9-]+$/),
  name: z.string().min(1),
  /** One plain sentence. */
  summary: z.string().min(1),
  grid: gridRule,
  /** Both sides must be equal. */
  square: z.boolean(),
  registration: z.literal('vertex'),
  heights: heightRule,
  /** Highest code that a written file may hold. */
  highestCode: z.int().min(1),
  /** The unit that positions and heights are typed in. */
  unit: z.strictObject({ name: z.string().min(1), metres: z.number().positive() }),
  formats: z.array(z.enum(['png', 'raw'])).min(1),
  /** Rungs shown in front. */
  wellWorn: z.array(z.int()),
  budgets: z.strictObject({
    /** Components in all; null where the target has none. */
    components: z.int().nullable(),
    verticesAdvised: z.int(),
    verticesHard: z.int(),
  }),
  /** Size on disk in the project as a multiple of the 16-bit heights: an estimate, and labelled as one. */
  diskFactor: z.tuple([z.number(), z.number()]),
  names: z.strictObject({
    refusedCharacters: z.string(),
    /** Characters that must not stand before the column and row part of a tile's name: its importers misread them. */
    refusedBeforeNumbers: z.string(),
  }),
  /** What happens, without a word, to a file of the wrong size or depth. */
  wrongSize: z.string().min(1),
  wrongDepth: z.string().min(1),
  steps: z.array(step).min(1),
  /** The same where the ground is split into several files. */
  stepsOfTiles: z.array(step).min(1),
});
export type Target = z.infer<typeof targetSchema>;
