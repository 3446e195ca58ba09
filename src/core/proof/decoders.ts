import { LevelGridError } from '../base';

/** Values as typed into the target, by the id of their card row. */
export type TypedValues = ReadonlyMap<string, number | string>;

/**
 * What a target makes of a code and of the typed values, in metres. Written from the target's own decoding rule and
 * the hand-worked vectors in tests/golden; shares nothing with the code that writes files or fills the card.
 */
export interface TargetDecoder {
  /** World height of a stored code. */
  heightOf(code: number): number;
  /** Distance from the first to the last vertex of one file, east–west and north–south. */
  extentX(vertices: number): number;
  extentY(vertices: number): number;
  /** Vertices along a side that the typed layout makes; null where none is typed. */
  verticesX(): number | null;
  verticesY(): number | null;
}

/** Everything typed in centimetres; code 32768 lies at the height offset, 128 codes are one centimetre at scale 1. */
function componentGrid(v: TypedValues): TargetDecoder {
  const get = reader(v);
  const scaleZ = get('heightScale');
  const offsetZ = get('heightOffset');
  const along = (components: string): number | null => {
    const [q, p, c] = [v.get('quads'), v.get('patches'), v.get(components)];
    return typeof q === 'number' && typeof p === 'number' && typeof c === 'number' ? q * p * c + 1 : null;
  };
  return {
    heightOf: (code) => (((code - 32768) / 128) * scaleZ + offsetZ) / 100,
    extentX: (n) => ((n - 1) * get('groundScaleX')) / 100,
    extentY: (n) => ((n - 1) * get('groundScaleY')) / 100,
    verticesX: () => along('componentsX'),
    verticesY: () => along('componentsY'),
  };
}

/** Everything typed in metres; code 0 lies at the base elevation, code 65535 a height range above. */
function oddGrid(v: TypedValues): TargetDecoder {
  const get = reader(v);
  const range = get('heightRange');
  const base = get('baseElevation');
  return {
    heightOf: (code) => base + (code * range) / 65535,
    extentX: () => get('extentX'),
    extentY: () => get('extentY'),
    verticesX: () => get('vertices'),
    verticesY: () => get('vertices'),
  };
}

const DECODERS: ReadonlyMap<string, (values: TypedValues) => TargetDecoder> = new Map([
  ['component-grid', componentGrid],
  ['odd-grid', oddGrid],
]);

export function decoderFor(target: string, values: TypedValues): TargetDecoder {
  const make = DECODERS.get(target);
  if (make) return make(values);
  throw new LevelGridError('unknown-target', {
    found: `a pack for "${target}"`,
    expected: [...DECODERS.keys()].join(' or '),
    remedy: 'Prove it with the Level Grid that wrote it.',
  });
}

function reader(values: TypedValues): (id: string) => number {
  return (id) => {
    const value = values.get(id);
    if (typeof value === 'number') return value;
    throw new LevelGridError('pack-document', {
      found: `no value for "${id}"`,
      expected: 'every value of the import card',
      remedy: 'Take import.json as it was written, or type the value.',
    });
  };
}
