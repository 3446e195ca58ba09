import { LevelGridError } from '../base';
import { targetSchema, type Target } from './schema';

const componentGrid: Target = {
  id: 'component-grid',
  name: 'Component grid',
  summary:
    'Terrain built from square components; heights are centred on code 32768 and everything is typed in centimetres.',
  grid: { kind: 'components', quads: [7, 15, 31, 63, 127, 255], patches: [1, 2], maxComponents: 32 },
  square: false,
  registration: 'vertex',
  heights: { kind: 'centred', middle: 32768, divisor: 128 },
  highestCode: 65535,
  unit: { name: 'cm', metres: 0.01 },
  formats: ['png', 'raw'],
  wellWorn: [127, 253, 505, 1009, 1513, 2017, 3025, 4033, 6097, 8129],
  budgets: { components: 1024, verticesAdvised: 8129, verticesHard: 16384 },
  diskFactor: [1.5, 4],
  names: { refusedCharacters: '/\\:*?"<>|', refusedBeforeNumbers: '_' },
  wrongSize: 'Fills up to the next whole component: the terrain gets a flat border, or is cut.',
  wrongDepth: 'Reads 8 bits as if they were 16: broad terraces.',
  steps: [
    { when: 'before', text: 'Start a new terrain from a file and choose the height file of this pack.' },
    {
      when: 'type',
      text: 'Set the component layout first: quads in a patch, patches in a component, components each way.',
    },
    { when: 'type', text: 'Type the ground scale for east and north, then the height scale.' },
    { when: 'type', text: 'Type the offsets. The height offset depends on the height scale: type it last.' },
    { when: 'after', text: 'Read the vertices per side that the target reports; another number means another layout.' },
    { when: 'look', text: 'Go to the check spots and compare position and height.' },
  ],
  stepsOfTiles: [
    { when: 'before', text: 'Keep all tiles of this pack in one folder of their own, and none of an older pack.' },
    { when: 'before', text: 'Start a new terrain from a file and choose tile no. 1 of the placement table.' },
    {
      when: 'type',
      text: 'Set the component layout first. It is that of one tile: quads in a patch, patches in a component, components each way.',
    },
    {
      when: 'type',
      text: 'Type the ground scale for east and north, then the height scale: they are the same for every tile.',
    },
    {
      when: 'type',
      text: 'Type the offsets of tile no. 1: east and north from its row of the placement table, the height offset from the values. The height offset is the same for every tile.',
    },
    {
      when: 'after',
      text: 'Bring in the other tiles in the order of the placement table, each at its own components east and south, counted from the north-west tile, or at its own east and north.',
    },
    { when: 'after', text: 'Count the tiles, and read the vertices per side that the target reports for each.' },
    { when: 'look', text: 'Go along the seams, then to the check spots, and compare position and height.' },
  ],
};

const oddGrid: Target = {
  id: 'odd-grid',
  name: 'Odd grid, 2ⁿ + 1',
  summary: 'A square grid of a power of two plus one vertices; asks for two extents and a height range in metres.',
  grid: { kind: 'power-of-two-plus-one', min: 33, max: 4097 },
  square: true,
  registration: 'vertex',
  heights: { kind: 'span' },
  highestCode: 65535,
  unit: { name: 'm', metres: 1 },
  formats: ['raw', 'png'],
  wellWorn: [33, 65, 129, 257, 513, 1025, 2049, 4097],
  budgets: { components: null, verticesAdvised: 4097, verticesHard: 4097 },
  diskFactor: [1, 2],
  names: { refusedCharacters: '/\\:*?"<>|', refusedBeforeNumbers: '' },
  wrongSize: 'Stretches the file to the grid it has: the terrain is blurred and slightly too small or too large.',
  wrongDepth: 'Reads two 8-bit samples as one of 16: noise.',
  steps: [
    {
      when: 'before',
      text: 'Make a terrain and set its vertices per side before anything else; a later change resets the heights.',
    },
    { when: 'type', text: 'Type both extents and the height range, in metres.' },
    { when: 'type', text: 'Import the RAW with 16 bits, and the byte order and row order that this page states.' },
    { when: 'after', text: 'Move the terrain to the base elevation.' },
    { when: 'look', text: 'Go to the check spots and compare position and height.' },
  ],
  stepsOfTiles: [
    {
      when: 'before',
      text: 'Make one terrain for each tile and set its vertices per side before anything else; a later change resets the heights.',
    },
    {
      when: 'type',
      text: 'Type both extents and the height range, in metres. They are those of one tile, and the same for every tile.',
    },
    { when: 'type', text: 'Import each RAW with 16 bits, and the byte order and row order that this page states.' },
    {
      when: 'after',
      text: 'Move each terrain to the east and north of its row of the placement table, and all of them to the base elevation. Where the target places a terrain by another corner, take that corner: these are of the north-west one.',
    },
    {
      when: 'after',
      text: 'Count the terrains. Where the target asks which ones touch, name the neighbours of the placement table.',
    },
    { when: 'look', text: 'Go along the seams, then to the check spots, and compare position and height.' },
  ],
};

/** The targets that come with Level Grid, each checked against the schema on load. */
export const BUILT_IN_TARGETS: readonly Target[] = [componentGrid, oddGrid].map((t) => targetSchema.parse(t));

export function targetById(id: string): Target {
  const target = BUILT_IN_TARGETS.find((t) => t.id === id);
  if (target) return target;
  throw new LevelGridError('unknown-target', {
    found: `target "${id}"`,
    expected: BUILT_IN_TARGETS.map((t) => t.id).join(' or '),
    remedy: 'Choose one of these.',
  });
}
