import type { StepOf } from '../../../recipe';
import { storedOf, unitOfStored } from '../heights';
import { assembled } from '../samples';
import { onFiles, type Piece, type TwinOperation } from './operation';

/**
 * Stored values from one to another become no height, or the value that stands for an elevation. Of several files, which
 * may overlap, it is not counted what that changes.
 */
export const values: TwinOperation<StepOf<'values'>> = (before, { from, to = from, become }, context) => {
  const { recipe, file, count } = context;
  const whole = become === 'void' ? NaN : storedOf(recipe, file, become);
  const unit = unitOfStored(recipe, file);
  const changed = (piece: Piece): Piece => {
    const own = (whole - piece.shift) / piece.factor;
    const kept = piece.wide || Number.isInteger(own) ? own : Math.fround(own);
    const { read } = piece;
    return {
      ...piece,
      read: {
        async *bands(job?: Parameters<typeof read.bands>[0]) {
          const { note, end } = count.begin();
          for await (const { y, rows, data } of read.bands(job)) {
            const out = Float64Array.from(data as ArrayLike<number>);
            for (let i = 0; i < out.length; i++) {
              const value = out[i] as number;
              if (value < from || value > to || Number.isNaN(value)) continue;
              out[i] = kept;
              note(piece.factor * (own - value) * unit);
            }
            yield { y, rows, data: out };
          }
          end();
        },
      },
    };
  };
  const stage = onFiles(before, (files, all) => {
    const pieces = all.map(changed);
    return { ...files, pieces, samples: assembled(pieces, null) };
  });
  return { stage, counts: stage.samples.files === 1 };
};
