import { useMemo } from 'react';
import type { WorstError } from '@/core/proof';
import { MAP_COLOURS, shadeDifference } from '@/core/relief';
import { useSession } from '@/state';

export interface DifferencePicture {
  readonly picture: HTMLCanvasElement;
  /** Metres that are drawn in the strongest colour. */
  readonly limit: number;
  /** Where it is largest. */
  readonly worst: WorstError;
}

/** The difference view of the last proof as a picture, one pixel a cell; null before there is a proof. */
export function useDifferencePicture(): DifferencePicture | null {
  const proof = useSession((s) => s.proof);
  const errorKind = useSession((s) => s.errorKind);
  const theme = useSession((s) => s.theme);
  return useMemo(() => {
    if (!proof?.maps || typeof document === 'undefined') return null;
    const { maps } = proof;
    const picture = document.createElement('canvas');
    picture.width = maps.columns;
    picture.height = maps.rows;
    const pixels = new Uint8ClampedArray(maps.columns * maps.rows * 4);
    const { budget } = proof.proof.encodingError;
    const limit =
      errorKind === 'encoding'
        ? 2 * (budget.halfStep + budget.typing + budget.arithmetic)
        : Math.max(proof.proof.groundError?.rms ?? 0, 1e-9) * 6;
    shadeDifference(pixels, maps[errorKind], limit, MAP_COLOURS[theme].sheet);
    picture.getContext('2d')?.putImageData(new ImageData(pixels, maps.columns, maps.rows), 0, 0);
    return { picture, limit, worst: maps.worst[errorKind] };
  }, [proof, errorKind, theme]);
}
