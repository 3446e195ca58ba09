import type * as z from 'zod';
import { formatLength, formatShort, LevelGridError } from '../../base';
import { afterHeights, checkWhole, onWhole, tell } from '../heights';
import { ORDER, type Operation } from '../operation';
import { squaredDistances } from './distance';
import { borderSamples, reachable, wet, type Water } from './select';
import type { seaSchema } from './schema';

interface Resolved extends Water {
  /** `all`, `border`, or the column and row of a sample. */
  readonly select: 'all' | 'border' | readonly [column: number, row: number];
  readonly become: number | { readonly perSample: number; readonly depth: number };
}

/** Heights; three marks and a distance. */
const HELD = { heights: 1, bytes: 3 + 4 };

const nowhere = (found: string, expected: string, remedy: string): LevelGridError =>
  new LevelGridError('crop-outside', { found, expected, remedy });

/** Sea and lakes brought to a level, or given a bed. */
export const sea: Operation<z.infer<typeof seaSchema>, Resolved> = {
  words: ({ level, select, tolerance, become }) => {
    const which = select === 'all' ? 'water' : select === 'border' ? 'the sea' : 'a lake';
    const where = tolerance === undefined ? `at ${formatShort(level)} m and below` : `at ${formatShort(level)} m`;
    return typeof become === 'number'
      ? `${which} ${where} becomes ${formatShort(become)} m`
      : `${which} ${where} gets a bed down to ${formatLength(become.depth)}`;
  },
  order: ORDER.heights,
  plan: (stage, { level, select, tolerance, maxSlope, become }, { sampleOf, unitOf }) => {
    checkWhole(stage.info, 'a sea that is looked for', HELD);
    const unit = unitOf(stage);
    const { width, height } = stage.info;
    let spot: Resolved['select'] = 'all';
    if (select === 'border') spot = select;
    else if (select !== 'all') {
      const [east, south] = select.spot;
      const [column, row] = [Math.round(east / stage.spacing), Math.round(south / stage.spacing)];
      if (!(column >= 0 && row >= 0 && column < width && row < height))
        throw nowhere(
          `a spot ${formatLength(east)} east and ${formatLength(south)} south of the first sample`,
          `one on the ground, ${formatLength((width - 1) * stage.spacing)} × ${formatLength((height - 1) * stage.spacing)}`,
          'Choose another spot.',
        );
      spot = [column, row];
    }
    return {
      stage: afterHeights(stage, 'a sea'),
      resolved: {
        level: sampleOf(stage, level),
        tolerance: tolerance === undefined ? null : tolerance / unit,
        maxSlope: maxSlope === undefined ? null : (maxSlope * stage.spacing) / unit,
        select: spot,
        become:
          typeof become === 'number'
            ? sampleOf(stage, become)
            : { perSample: (become.slope * stage.spacing) / unit, depth: become.depth / unit },
      },
    };
  },
  open: (input, { select, become, ...water }, stage, tally) =>
    onWhole(
      input,
      afterHeights(stage, 'a sea').info,
      (ground, told) => {
        const { data, width, height } = ground;
        const all = wet(ground, water);
        const marks =
          select === 'all'
            ? all
            : reachable(all, ground, select === 'border' ? borderSamples(ground) : [select[1] * width + select[0]]);
        let distances: Float32Array | null = null;
        if (typeof become !== 'number') {
          const shore = new Uint8Array(data.length);
          for (let i = 0; i < data.length; i++) if (marks[i] === 0 && data[i] === data[i]) shore[i] = 1;
          if (marks.includes(1) && !shore.includes(1))
            throw nowhere(
              'a sea that is everything',
              'a shore, from which its bed can fall',
              'Choose a lower level, or an elevation instead of a bed.',
            );
          distances = squaredDistances(shore, width, height);
        }
        for (let i = 0; i < data.length; i++) {
          if (marks[i] === 0) continue;
          const before = data[i]!;
          data[i] =
            typeof become === 'number'
              ? become
              : water.level - Math.min(become.depth, become.perSample * Math.sqrt(distances![i]!));
          tell(told, before, data[i]!);
        }
      },
      tally,
    ),
};
