import { asLevelGridError, LevelGridError, type ByteSource } from '../base';
import type { OpenRaster } from '../raster';
import { openPng } from './png/read';
import { SIGNATURE } from './png/header';
import { openRaw } from './raw/read';
import type { RawGuess } from './raw/guess';
import { type RawLayout, rawBytesOf } from './raw/layout';

/** Endings under which headerless height files go. */
export const RAW_ENDINGS = ['raw', 'r16', 'r8', 'bin', 'dat'] as const;
/** Endings of all height files, each with its dot. */
export const HEIGHT_ENDINGS: readonly string[] = ['png', ...RAW_ENDINGS].map((e) => `.${e}`);

/** True for names that height files go by. */
export const isHeightName = (name: string): boolean => HEIGHT_ENDINGS.some((e) => name.toLowerCase().endsWith(e));

/** A raster that was opened, with the layout where it had to be known, and the guess where there was one. */
export type OpenedFile = OpenRaster & { readonly layout?: RawLayout; readonly guess?: RawGuess };

/**
 * Opens a height file by what it holds, not by its name. `raw` states the layout of a headerless file; without it a
 * file that is no PNG is read as RAW where its ending says so, and refused otherwise.
 */
export async function openHeightFile(source: ByteSource, raw?: RawLayout): Promise<OpenedFile> {
  const opened = await openByContent(source, raw);
  return {
    ...opened,
    async *bands(job) {
      try {
        yield* opened.bands(job);
      } catch (reason) {
        throw asLevelGridError(reason, 'reading the file', source.name);
      }
    },
  };
}

async function openByContent(source: ByteSource, raw: RawLayout | undefined): Promise<OpenedFile> {
  try {
    if (source.size === 0) {
      throw new LevelGridError('empty-file', {
        found: 'a file of 0 bytes',
        expected: 'a height raster (PNG or RAW)',
        remedy: 'Copy or export the file again.',
      });
    }
    // a layout that fits to the byte is meant, whatever the file begins with
    if (raw && rawBytesOf(raw) === source.size) return await openRaw(source, raw);
    const head = await source.read(0, 64);
    if (head.length >= 4 && SIGNATURE.every((b, i) => i >= head.length || head[i] === b)) return await openPng(source);
    const ending = /\.([^.]+)$/.exec(source.name)?.[1]?.toLowerCase() ?? '';
    if (raw) return await openRaw(source, raw);
    if ((RAW_ENDINGS as readonly string[]).includes(ending)) return await openRaw(source);
    throw new LevelGridError('unknown-format', {
      found: describe(head),
      expected: `a PNG, or a headerless RAW with the ending ${RAW_ENDINGS.map((e) => `.${e}`).join(' ')}`,
      remedy: 'Export the heights as grey PNG (16 bits) or RAW, or state the layout of a headerless file.',
    });
  } catch (reason) {
    throw asLevelGridError(reason, 'opening the file', source.name);
  }
}

/** What a file looks like, from its first bytes. */
function describe(head: Uint8Array): string {
  const starts = (...bytes: number[]): boolean => bytes.every((b, i) => head[i] === b);
  if (starts(0xff, 0xd8, 0xff)) return 'a JPEG picture, which loses heights';
  if (starts(0x49, 0x49, 0x2a, 0) || starts(0x4d, 0x4d, 0, 0x2a))
    return 'a TIFF file, which this version does not read';
  if (starts(0x50, 0x4b, 3, 4)) return 'a zip archive';
  if (starts(0x76, 0x2f, 0x31, 0x01)) return 'an EXR picture, which this version does not read';
  if (starts(0x52, 0x49, 0x46, 0x46)) return 'a RIFF file (WebP pictures are one), which loses heights';
  if (head.every((b) => b === 9 || b === 10 || b === 13 || (b >= 32 && b < 127))) return 'plain text';
  return 'bytes that begin like no height file';
}
