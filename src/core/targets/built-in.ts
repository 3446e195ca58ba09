import { LevelGridError } from '../base';
import { METRES, NAMES, SPOTS, type Described } from './described';
import { fixedSpan, fixedStep } from './fixed-maps';
import type { Target } from './schema';

const componentGrid: Described = {
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
  asks: [
    'verticesX',
    'verticesY',
    'layout',
    'groundScaleX',
    'groundScaleY',
    'heightScale',
    'heightOffset',
    'eastOffset',
    'northOffset',
    'companions',
    'reading',
  ],
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

const oddGrid: Described = {
  id: 'odd-grid',
  name: 'Odd grid, 2ⁿ + 1',
  summary: 'A square grid of a power of two plus one vertices; asks for two extents and a height range in metres.',
  grid: { kind: 'power-of-two-plus-one', min: 33, max: 4097 },
  square: true,
  registration: 'vertex',
  heights: { kind: 'span' },
  highestCode: 65535,
  unit: { name: 'm', metres: 1 },
  asks: ['vertices', 'extentX', 'extentY', 'heightRange', 'baseElevation', 'eastOffset', 'northOffset', 'reading'],
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
    {
      when: 'type',
      text: 'Import the file with the bit depth that this page states; a RAW with its byte order and row order, too.',
    },
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

const evenGrid: Described = {
  id: 'even-grid',
  name: 'Even grid, range first',
  summary:
    'A square grid of a power of two cells; the top of the height range and the metres of a cell are typed before the import.',
  grid: { kind: 'power-of-two', min: 512, max: 8192 },
  square: true,
  registration: 'cell',
  heights: { kind: 'span' },
  highestCode: 65535,
  unit: METRES,
  asks: ['samples', 'topOfRange', 'metresPerSample', 'baseElevation', 'eastOffset', 'northOffset', 'reading'],
  formats: ['tiff', 'raw'],
  encodings: ['u16', 'u8'],
  wellWorn: [512, 1024, 2048, 4096, 8192],
  budgets: { components: null, verticesAdvised: 8192, verticesHard: 8192 },
  diskFactor: [1, 3],
  names: NAMES,
  wrongSize: 'Shows noise, or stretches the file to the cells that it has.',
  wrongDepth: 'Reads two 8-bit samples as one of 16: noise.',
  steps: [
    { when: 'before', text: 'Make a terrain with as many cells a side as this page states.' },
    {
      when: 'type',
      text: 'Type the top of the range and the metres of a cell first: a file that is read before them is laid flat.',
    },
    {
      when: 'type',
      text: 'Import the file with the bit depth that this page states; a RAW with its byte order and row order, too.',
    },
    { when: 'after', text: 'Move the terrain to the base elevation.' },
    SPOTS,
  ],
  stepsOfTiles: [
    { when: 'before', text: 'Make one terrain for each tile, with as many cells a side as this page states.' },
    {
      when: 'type',
      text: 'Type the top of the range and the metres of a cell first. They are the same for every tile.',
    },
    { when: 'type', text: 'Import each file with the bit depth, byte order and row order that this page states.' },
    {
      when: 'after',
      text: 'Move each terrain to the east and north of its row of the placement table, and all of them to the base elevation.',
    },
    SPOTS,
  ],
};

const voxelLayers: Described = {
  id: 'voxel-layers',
  name: 'Voxel layers',
  summary: 'A world of blocks: each sample is one column of blocks, and its code says on which layer the ground lies.',
  grid: { kind: 'any', min: 16, max: 16384 },
  square: false,
  registration: 'cell',
  heights: { kind: 'layers', bottom: -64, top: 319 },
  highestCode: 65535,
  unit: METRES,
  zero: 'lowest-code',
  asks: [
    'samplesX',
    'samplesY',
    'metresPerSample',
    'bottomLayer',
    'topLayer',
    'waterLayer',
    'metresPerLayer',
    'reading',
  ],
  formats: ['png'],
  wellWorn: [512, 1024, 2048, 4096],
  budgets: { components: null, verticesAdvised: 8192, verticesHard: 16384 },
  diskFactor: [1, 4],
  names: NAMES,
  wrongSize: 'Takes every size: one sample is one column of blocks.',
  wrongDepth: 'Reads 8 bits with at most 256 layers.',
  steps: [
    { when: 'before', text: 'Raise the build limit of the world to the top layer before anything is imported.' },
    { when: 'type', text: 'Import the picture at one sample a block, and type the bottom and the top layer.' },
    { when: 'type', text: 'Set the water to the layer that this page states, where it states one.' },
    SPOTS,
  ],
  stepsOfTiles: [
    { when: 'before', text: 'Raise the build limit of the world to the top layer before anything is imported.' },
    {
      when: 'type',
      text: 'Import each picture at its own east and north of the placement table, with the same two layers.',
    },
    SPOTS,
  ],
};

const exchange: Described = {
  id: 'exchange',
  name: 'Plain exchange',
  summary: 'For other programs: any size, as whole steps between two elevations that this page states, or as floats.',
  grid: { kind: 'any', min: 2, max: 32768 },
  square: false,
  registration: 'vertex',
  heights: { kind: 'span' },
  highestCode: 65535,
  unit: METRES,
  zero: 'elevation',
  asks: [
    'verticesX',
    'verticesY',
    'metresPerSample',
    'lowestElevation',
    'highestElevation',
    'eastOffset',
    'northOffset',
    'reading',
  ],
  formats: ['png', 'raw', 'tiff', 'exr', 'asc'],
  encodings: ['u16', 'f32', 'f32-share', 'u8'],
  wellWorn: [512, 513, 1024, 1025, 2048, 2049, 4096, 4097],
  budgets: { components: null, verticesAdvised: 16384, verticesHard: 32768 },
  diskFactor: [1, 1],
  names: NAMES,
  wrongSize: 'Depends on the program that reads it.',
  wrongDepth: 'Depends on the program that reads it.',
  steps: [
    { when: 'before', text: 'Hand this page on with the files: without its numbers they are a picture.' },
    {
      when: 'type',
      text: 'Where the program asks, type the spacing and what else this page states.',
    },
    SPOTS,
  ],
  stepsOfTiles: [
    { when: 'before', text: 'Hand this page on with the files: without its numbers they are pictures.' },
    {
      when: 'type',
      text: 'Place each file by its row of the placement table; spacing and heights are the same for all.',
    },
    SPOTS,
  ],
};

const storedTiles: Described = {
  id: 'stored-tiles',
  name: 'Stored tiles',
  summary:
    'Ground kept in tiles of a power of two; one file holds all of them, with the last row and column or without.',
  grid: { kind: 'stored-tiles', least: 64, most: 2048, max: 16385 },
  square: false,
  registration: 'vertex',
  heights: { kind: 'span' },
  highestCode: 65535,
  unit: METRES,
  zero: 'elevation',
  asks: [
    'verticesX',
    'verticesY',
    'metresPerSample',
    'storedTileSide',
    'lowestElevation',
    'highestElevation',
    'eastOffset',
    'northOffset',
    'reading',
  ],
  formats: ['raw', 'tiff', 'exr'],
  encodings: ['u16', 'f32', 'f32-share'],
  wellWorn: [512, 513, 1024, 1025, 2048, 2049, 4096, 4097, 8192, 8193],
  budgets: { components: null, verticesAdvised: 8193, verticesHard: 16385 },
  diskFactor: [0.5, 1.5],
  names: NAMES,
  wrongSize: 'Pads the last tiles with the lowest code: a cliff along two edges.',
  wrongDepth: 'Reads two 8-bit samples as one of 16: noise.',
  steps: [
    {
      when: 'type',
      text: 'Type the side of a stored tile, then the vertices, the spacing and, where this page states them, both elevations.',
    },
    {
      when: 'type',
      text: 'Import the file with the bit depth that this page states; a RAW with its byte order and row order, too.',
    },
    {
      when: 'look',
      text: 'Go along the east and south edges: where the last row is not stored, what stands behind it is the target’s own.',
    },
    SPOTS,
  ],
  stepsOfTiles: [
    {
      when: 'type',
      text: 'Type the side of a stored tile, then the spacing and, where this page states them, both elevations: they are the same for every file.',
    },
    { when: 'type', text: 'Import each file at its own east and north of the placement table.' },
    SPOTS,
  ],
};

/** The targets that come with Level Grid; a test checks each against the schema, so that no call waits for it. */
export const BUILT_IN_TARGETS: readonly Target[] = [
  componentGrid,
  oddGrid,
  evenGrid,
  fixedStep,
  fixedSpan,
  storedTiles,
  voxelLayers,
  exchange,
].map((t) => ({ ...t, version: 1, zero: t.zero ?? 'chosen', encodings: t.encodings ?? ['u16'] }));

/** The target that a recipe names by its id, or describes itself. */
export function targetOf(named: string | Target): Target {
  if (typeof named !== 'string') return named;
  const target = BUILT_IN_TARGETS.find((t) => t.id === named);
  if (target) return target;
  throw new LevelGridError('unknown-target', {
    found: `target "${named}"`,
    expected: BUILT_IN_TARGETS.map((t) => t.id).join(' or '),
    remedy: 'Choose one of these, or describe one of your own.',
  });
}

/** The id of it. */
export const targetIdOf = (named: string | Target): string => (typeof named === 'string' ? named : named.id);
