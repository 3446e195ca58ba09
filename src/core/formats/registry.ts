import { asLevelGridError, LevelGridError, type ByteSource } from '../base';
import type { OpenRaster } from '../raster';
import { ascFormat } from './asc/read';
import { bilFormat } from './bil/read';
import { exrFormat } from './exr/read';
import { HEAD_BYTES, type FirstLook, type HeightFormat } from './format';
import { hgtFormat } from './hgt/read';
import { foreignFile } from './foreign';
import { isMeshKind, MESH_FORMATS, openMesh, type MeshAsked, type MeshKind } from './mesh';
import { netpbmFormat } from './netpbm/read';
import { pngFormat } from './png/read';
import { openRaw, rawFormat } from './raw/read';
import type { RawGuess } from './raw/guess';
import type { ReadingKey } from './reading-options';
import { type RawLayout, bytesOfRaw } from './raw/layout';
import { tiffFormat } from './tiff/read';

/**
 * Every format that is read, in the order in which a file is shown to them: those that know a file by its first bytes,
 * then those that know it by its name. A further one is a folder, and a line here.
 */
export const FORMATS: readonly HeightFormat[] = [
  pngFormat,
  tiffFormat,
  exrFormat,
  ...MESH_FORMATS,
  netpbmFormat,
  ascFormat,
  hgtFormat,
  bilFormat,
  rawFormat,
];

/** Endings of all height files, each with its dot. */
export const HEIGHT_ENDINGS: readonly string[] = FORMATS.flatMap((f) => f.endings.map((e) => `.${e}`));

/** True for names that height files go by. */
export const isHeightName = (name: string): boolean => HEIGHT_ENDINGS.some((e) => name.toLowerCase().endsWith(e));

/** What a format is called; the id itself where it is unknown. */
export const formatName = (id: string): string => FORMATS.find((f) => f.id === id)?.name ?? id;

/** How a mesh is read, and whether what of it is no place is left out. */
export type MeshReading = MeshAsked & { readonly partial?: boolean };

/** The kind of mesh that a file is; null where it is none. */
export async function meshKindOf(source: ByteSource): Promise<MeshKind | null> {
  const look = await firstLook(source);
  const id = FORMATS.find((f) => f.sniff(look))?.id ?? '';
  return isMeshKind(id) ? id : null;
}

/** What of the reading of a recipe a file takes: its layout, or how it is baked; null where it says all itself. */
export async function takenBy(source: ByteSource): Promise<ReadingKey | null> {
  const look = await firstLook(source);
  return FORMATS.find((f) => f.sniff(look))?.takes ?? null;
}

/** A raster that was opened, with the layout where it had to be known, and the guess where there was one. */
export type OpenedFile = OpenRaster & { readonly layout?: RawLayout; readonly guess?: RawGuess };

/**
 * Opens a height file by what it holds, and only where that says nothing by its name. `raw` states the layout of a
 * headerless file: it is believed where it fits to the byte, or where no format knows the file. `mesh` states how a mesh
 * is baked.
 */
export async function openHeightFile(source: ByteSource, raw?: RawLayout, mesh?: MeshReading): Promise<OpenedFile> {
  const opened = await openByContent(source, raw, mesh);
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

async function openByContent(
  source: ByteSource,
  raw: RawLayout | undefined,
  mesh: MeshReading | undefined,
): Promise<OpenedFile> {
  try {
    if (source.size === 0) {
      throw new LevelGridError('empty-file', {
        found: 'a file of 0 bytes',
        expected: `a height raster (${FORMATS.map((f) => f.name).join(', ')})`,
        remedy: 'Copy or export the file again.',
      });
    }
    if (raw && bytesOfRaw(raw) === source.size) return await openRaw(source, raw);
    const look = await firstLook(source);
    const format = FORMATS.find((f) => f.sniff(look));
    if (raw && (!format || format === rawFormat)) return await openRaw(source, raw);
    if (format && mesh && isMeshKind(format.id)) return await openMesh(source, format.id, mesh, mesh.partial);
    if (format) return await format.open(source);
    throw foreignFile(look, FORMATS);
  } catch (reason) {
    throw asLevelGridError(reason, 'opening the file', source.name);
  }
}

async function firstLook(source: ByteSource): Promise<FirstLook> {
  return {
    head: await source.read(0, HEAD_BYTES),
    ending: /\.([^.]+)$/.exec(source.name)?.[1]?.toLowerCase() ?? '',
    size: source.size,
  };
}
