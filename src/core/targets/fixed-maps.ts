import { METRES, NAMES, SPOTS, type Described } from './described';

/* Maps of one size and spacing, whatever is imported. */

const ONE_FILE: Described['stepsOfTiles'] = [
  { when: 'before', text: 'This map is one file: take the split out.' },
  SPOTS,
];

export const fixedStep: Described = {
  id: 'fixed-step',
  name: 'Fixed map, fixed steps',
  summary: 'One map of 1081 vertices, 16 m apart; every code is a 64th of a metre, so that heights reach 1 023.98 m.',
  grid: { kind: 'one', side: 1081 },
  square: true,
  registration: 'vertex',
  heights: { kind: 'fixed-step', step: 1 / 64 },
  highestCode: 65535,
  unit: METRES,
  zero: 'lowest-code',
  spacing: 16,
  asks: ['vertices', 'lowestElevation', 'seaLevel', 'reading'],
  formats: ['png'],
  wellWorn: [1081],
  budgets: { components: null, verticesAdvised: 1081, verticesHard: 1081 },
  diskFactor: [1, 2],
  names: NAMES,
  wrongSize: 'Stretches the picture to 1081 vertices, whatever its size.',
  wrongDepth: 'Reads 8 bits as the upper half of 16: steps of 4 m.',
  steps: [
    { when: 'before', text: 'Put the picture where the map editor looks for height pictures.' },
    { when: 'type', text: 'Import it, and set the sea level that this page states.' },
    {
      when: 'look',
      text: 'Only the middle five by five of its nine by nine lots can be built on: see that what matters lies there.',
    },
    SPOTS,
  ],
  stepsOfTiles: ONE_FILE,
};

export const fixedSpan: Described = {
  id: 'fixed-span',
  name: 'Fixed map, half turn',
  summary: 'One map of 4096 cells of 3.5 m, which turns the file by half a turn; asks for the height range.',
  grid: { kind: 'one', side: 4096 },
  square: true,
  registration: 'cell',
  heights: { kind: 'span' },
  highestCode: 65535,
  unit: METRES,
  zero: 'lowest-code',
  spacing: 3.5,
  halfTurn: true,
  asks: ['samples', 'heightRange', 'seaLevel', 'reading'],
  formats: ['png', 'raw'],
  wellWorn: [4096],
  budgets: { components: null, verticesAdvised: 4096, verticesHard: 4096 },
  diskFactor: [1, 2],
  names: NAMES,
  wrongSize: 'Refuses it.',
  wrongDepth: 'Reads 8 bits as they are: broad terraces.',
  steps: [
    { when: 'before', text: 'Make a new map from a height picture and choose the file of this pack.' },
    { when: 'type', text: 'Type the height range, then the water level.' },
    {
      when: 'look',
      text: 'The map shows the file turned by half a turn, which the file of this pack is made for: north must lie north.',
    },
    SPOTS,
  ],
  stepsOfTiles: ONE_FILE,
};
