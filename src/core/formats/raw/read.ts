import { checkpoint, LevelGridError, type ByteSource } from '../../base';
import { bandRows, type OpenRaster, type RasterInfo, type RasterWarning } from '../../raster';
import { HOST_IS_LITTLE, SequentialReader, swapBytes } from '../bytes';
import { guessRaw, SURE_LEAD, type RawGuess } from './guess';
import type { HeightFormat } from '../format';
import {
  checkRawLayout,
  layoutText,
  RAW_ENDINGS,
  rawSampleBytes,
  rawSampleType,
  viewSamples,
  type RawLayout,
} from './layout';

/** A headerless file, opened: how it is read, and how sure that is where it was guessed. */
export type OpenedRaw = OpenRaster & { readonly layout: RawLayout; readonly guess?: RawGuess };

/** Headerless files: known by their name alone. */
export const rawFormat: HeightFormat = {
  id: 'raw',
  name: 'RAW',
  takes: 'raw',
  endings: RAW_ENDINGS,
  sniff: ({ ending }) => (RAW_ENDINGS as readonly string[]).includes(ending),
  open: (source) => openRaw(source),
};

/** Opens a headerless file; without a layout one is guessed and the guess is said in a warning. */
export async function openRaw(source: ByteSource, given?: RawLayout): Promise<OpenedRaw> {
  const guess = given ? null : await guessRaw(source);
  const layout = given ?? (guess as NonNullable<typeof guess>).layout;
  checkRawLayout(layout, source.size);
  const bytes = rawSampleBytes(layout.type);
  const info: RasterInfo = {
    format: 'raw',
    width: layout.width,
    height: layout.height,
    channels: 1,
    bitDepth: bytes * 8,
    sampleType: rawSampleType(layout.type),
    byteOrder: bytes === 1 ? null : layout.byteOrder,
    warnings: guess ? [guessWarning(guess)] : [],
  };
  const little = layout.byteOrder === 'little';
  return {
    info,
    layout,
    ...(guess ? { guess } : {}),
    lateWarnings: [],
    async *bands(job) {
      const { width, height, skip, type } = layout;
      const perBand = bandRows(width);
      const reader = new SequentialReader(source, skip);
      try {
        for (let y = 0; y < height; y += perBand) {
          checkpoint(job);
          const rows = Math.min(perBand, height - y);
          // on its own memory: aligned, and free to be swapped
          const own = new Uint8Array(rows * width * bytes);
          const read = await reader.fill(own);
          if (read < own.length) {
            throw new LevelGridError('truncated', {
              file: source.name,
              found: `the end of the file in row ${y + Math.floor(read / (width * bytes))}`,
              expected: `${height} rows`,
              remedy: 'The file changed while it was read: bring it in again.',
            });
          }
          if (little !== HOST_IS_LITTLE) swapBytes(own, bytes);
          yield { y, rows, data: viewSamples(type, own) };
        }
      } finally {
        await reader.end();
      }
    },
  };
}

/** What was guessed and how sure that is; confirmed, it stands in the recipe. */
function guessWarning({ layout, lead }: RawGuess): RasterWarning {
  const sure = lead >= SURE_LEAD;
  return {
    code: sure ? 'raw-guessed' : 'raw-uncertain',
    message:
      `The file has no header: ${layoutText(layout)} was guessed from its length and its data ` +
      `(${Math.round(lead * 100)} % ahead of the next reading). ` +
      (sure
        ? 'Check the map.'
        : 'That is uncertain: look at the other readings under Bring in, or say that this one is right.'),
    repair: { label: 'this is right', edit: 'raw-layout', args: { raw: layout } },
  };
}
