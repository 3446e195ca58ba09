import type { OpenedFile } from '../../formats';
import type { Recipe } from '../../recipe';

type Bands = Pick<OpenedFile, 'bands'>;
type Curved = Bands & { readonly stored?: OpenedFile | (Bands & Pick<OpenedFile, 'info'>) };

/**
 * The source as it is meant, with a display curve undone a second time: from what stands in the file, in double
 * precision, by the definition of the curve.
 */
export function straightReading(opened: Curved, curve: Recipe['source']['curve']): Bands {
  const { stored } = opened;
  if (curve === undefined || !stored) return opened;
  const { bitDepth, sampleType } = stored.info;
  const white = sampleType === 'float' ? 1 : sampleType === 'int' ? 2 ** (bitDepth - 1) - 1 : 2 ** bitDepth - 1;
  const undone = (value: number): number => {
    const shown = value / white;
    if (shown < 0) return -undone(-value);
    if (curve !== 'srgb') return Math.exp(curve * Math.log(shown));
    // the straight piece near black ends at 0.04045
    return shown > 0.04045 ? Math.exp(2.4 * Math.log((shown + 0.055) / 1.055)) : shown / 12.92;
  };
  return {
    async *bands(job) {
      for await (const { y, rows, data } of stored.bands(job)) yield { y, rows, data: Float64Array.from(data, undone) };
    },
  };
}
