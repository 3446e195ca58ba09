import { checkpoint, LevelGridError, type ByteSource } from '../../base';
import { bandRows, type OpenRaster, type RasterInfo, type StoredSamples } from '../../raster';
import { checkSize } from '../blocks';
import { HOST_IS_LITTLE, SequentialReader, swapBytes } from '../bytes';
import { companionText } from '../beside';
import type { HeightFormat } from '../format';
import { parseProjection } from '../projection';
import { viewSamples, rawSampleBytes, type RawType } from '../raw/layout';
import { parseGridHeader, type GridHeader } from './header';

const ENDINGS = ['bil', 'bip', 'bsq', 'flt'] as const;

/** Grids of plain samples whose layout a .hdr beside them says, and whose coordinates a .prj. */
export const bilFormat: HeightFormat = {
  id: 'bil',
  name: 'BIL, BIP, BSQ or FLT',
  endings: ENDINGS,
  companions: ['hdr', 'prj'],
  sniff: ({ ending }) => (ENDINGS as readonly string[]).includes(ending),
  open: openGrid,
};

async function openGrid(source: ByteSource): Promise<OpenRaster> {
  const text = await companionText(source, 'hdr');
  const stem = source.name.replace(/\.[^.]*$/, '');
  if (text === null)
    throw new LevelGridError('raw-layout', {
      found: 'a grid without the header that belongs to it',
      expected: `${stem}.hdr beside it`,
      remedy: 'Take both files together. Without a header, state the layout: width, height, sample type, byte order.',
    });
  const ending = /\.([^.]+)$/.exec(source.name)?.[1]?.toLowerCase() ?? '';
  const header = parseGridHeader(text, `${stem}.hdr`, ending);
  const { width, height, bits, sampleType, noData, place, rowBytes, skip } = header;
  checkSize(width, height, rowBytes);
  const needed = skip + (height - 1) * rowBytes + (width - 1) * header.sampleStride + bits / 8;
  if (needed > source.size)
    throw new LevelGridError('raw-length', {
      found: `${source.size} bytes`,
      expected: `at least ${needed} for ${width} × ${height} samples, as the header says`,
      remedy: 'The file is cut short, or the header is that of another one.',
    });
  const projection = parseProjection((await companionText(source, 'prj')) ?? '');
  const info: RasterInfo = {
    format: 'bil',
    width,
    height,
    channels: header.bands,
    bitDepth: bits,
    sampleType,
    byteOrder: bits === 8 ? null : header.byteOrder,
    ...(noData === null ? {} : { noData, mayHoldVoids: true }),
    registration: header.registration,
    ...(place
      ? {
          georeference: {
            ...place,
            ...(projection
              ? {
                  metres: projection.metres,
                  degrees: projection.degrees,
                  ...(projection.text === undefined ? {} : { text: projection.text }),
                }
              : { metres: null, degrees: looksLikeDegrees(place) }),
            crs: projection?.crs ?? null,
          },
        }
      : {}),
    warnings: header.warnings,
  };
  return { info, lateWarnings: [], bands: (job) => bandsOf(source, header, info, job) };
}

/** Without a .prj: small steps on the globe are degrees, of all others the unit is not known. */
const looksLikeDegrees = ({ x, y, dx, dy }: NonNullable<GridHeader['place']>): boolean =>
  Math.max(dx, dy) < 0.1 && Math.abs(x) <= 180 && Math.abs(y) <= 90;

async function* bandsOf(
  source: ByteSource,
  header: GridHeader,
  info: RasterInfo,
  job?: Parameters<OpenRaster['bands']>[0],
): ReturnType<OpenRaster['bands']> {
  const { width, height, bits, rowBytes, sampleStride, skip } = header;
  const letter = { uint: 'u', int: 'i', float: 'f' }[header.sampleType];
  const type = `${letter}${bits}` as RawType;
  const bytes = rawSampleBytes(type);
  const perBand = bandRows(width);
  const reader = new SequentialReader(source, skip);
  // a header may lie about rows: no more is held than the file has
  const row = new Uint8Array(Math.min(rowBytes, source.size));
  try {
    for (let y = 0; y < height; y += perBand) {
      checkpoint(job);
      const rows = Math.min(perBand, height - y);
      const own = new Uint8Array(rows * width * bytes);
      for (let r = 0; r < rows; r++) {
        const read = await reader.fill(row);
        // the last row may end with its last sample
        if (read < (width - 1) * sampleStride + bytes)
          throw new LevelGridError('truncated', {
            file: source.name,
            found: `the end of the file in row ${y + r}`,
            expected: `${height} rows`,
            remedy: 'The file changed while it was read: bring it in again.',
          });
        const to = r * width * bytes;
        if (sampleStride === bytes) own.set(row.subarray(0, width * bytes), to);
        else
          for (let x = 0; x < width; x++)
            own.set(row.subarray(x * sampleStride, x * sampleStride + bytes), to + x * bytes);
      }
      if ((header.byteOrder === 'little') !== HOST_IS_LITTLE) swapBytes(own, bytes);
      yield { y, rows, data: withVoids(viewSamples(type, own), info) };
    }
  } finally {
    await reader.end();
  }
}

/** Samples that are marked as voids become no numbers; whole numbers then come as floats that keep them exact. */
function withVoids(samples: StoredSamples, { noData, bitDepth, sampleType }: RasterInfo): StoredSamples {
  if (noData === undefined) return samples;
  // floats hold the mark as they can
  const mark = samples instanceof Float32Array ? Math.fround(noData) : noData;
  const own = sampleType === 'float' ? samples : bitDepth > 16 ? new Float64Array(samples) : new Float32Array(samples);
  for (let i = 0; i < own.length; i++) if (own[i] === mark) own[i] = NaN;
  return own;
}
