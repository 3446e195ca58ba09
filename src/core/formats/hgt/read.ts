import { checkpoint, LevelGridError, type ByteSource } from '../../base';
import { bandRows, type OpenRaster, type RasterInfo } from '../../raster';
import { HOST_IS_LITTLE, SequentialReader, swapBytes } from '../bytes';
import type { HeightFormat } from '../format';

/** Samples a side of a block of one degree: 3 and 1 arc-seconds apart. */
const SIDES = [1201, 3601] as const;
const VOID = -32768;

/** HGT blocks: one degree each way, metres as signed 16 bits, big-endian, rows from the north, placed by their name. */
export const hgtFormat: HeightFormat = {
  id: 'hgt',
  name: 'HGT',
  endings: ['hgt'],
  sniff: ({ ending }) => ending === 'hgt',
  open: openHgt,
};

/** South-western corner of a block by its name, such as N47E011; null where the name does not say it. */
export function cornerOf(name: string): { latitude: number; longitude: number } | null {
  const found = /^([NS])(\d{2})([EW])(\d{3})/i.exec(name);
  if (!found) return null;
  const [, ns = '', lat = '', ew = '', lon = ''] = found;
  const latitude = Number(lat) * (/s/i.test(ns) ? -1 : 1);
  const longitude = Number(lon) * (/w/i.test(ew) ? -1 : 1);
  return Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180 ? { latitude, longitude } : null;
}

async function openHgt(source: ByteSource): Promise<OpenRaster> {
  const side = SIDES.find((n) => n * n * 2 === source.size);
  if (!side)
    throw new LevelGridError('raw-length', {
      found: `${source.size} bytes`,
      expected: SIDES.map((n) => `${n * n * 2} (${n} × ${n} samples)`).join(' or '),
      remedy: 'The file is cut short, or no block of one degree: copy it again.',
    });
  const corner = cornerOf(source.name);
  const step = 1 / (side - 1);
  const info: RasterInfo = {
    format: 'hgt',
    width: side,
    height: side,
    channels: 1,
    bitDepth: 16,
    sampleType: 'int',
    byteOrder: 'big',
    noData: VOID,
    mayHoldVoids: true,
    unit: 'metre',
    registration: 'vertex',
    ...(corner
      ? {
          georeference: {
            x: corner.longitude,
            y: corner.latitude + 1,
            dx: step,
            dy: step,
            metres: null,
            degrees: true,
            crs: 'EPSG:4326',
          },
        }
      : {}),
    warnings: corner
      ? []
      : [
          {
            code: 'structure',
            message:
              'The name of the file does not say which block it is (such as N47E011): where it lies, and how many metres a sample is wide, is not known.',
          },
        ],
  };
  return {
    info,
    lateWarnings: [],
    async *bands(job) {
      const perBand = bandRows(side);
      const reader = new SequentialReader(source);
      try {
        for (let y = 0; y < side; y += perBand) {
          checkpoint(job);
          const rows = Math.min(perBand, side - y);
          const own = new Uint8Array(rows * side * 2);
          const read = await reader.fill(own);
          if (read < own.length)
            throw new LevelGridError('truncated', {
              file: source.name,
              found: `the end of the file in row ${y + Math.floor(read / (side * 2))}`,
              expected: `${side} rows`,
              remedy: 'The file changed while it was read: bring it in again.',
            });
          if (HOST_IS_LITTLE) swapBytes(own, 2);
          const codes = new Int16Array(own.buffer);
          const data = new Float32Array(codes);
          for (let i = 0; i < codes.length; i++) if (codes[i] === VOID) data[i] = NaN;
          yield { y, rows, data };
        }
      } finally {
        await reader.end();
      }
    },
  };
}
