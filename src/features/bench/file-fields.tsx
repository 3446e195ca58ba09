'use client';
import { formatNumber } from '@/core/base';
import { withOutput } from '@/core/edits';
import { FILE_FORMATS, HELD_BY, PACKED, saysPlace, type EncodingId, type FileFormat } from '@/core/raster';
import type { Recipe } from '@/core/recipe';
import { writtenTarget, type WrittenTarget } from '@/core/targets';
import { Segmented } from '@/ui';
import { choose, useCurrentRecipe, usePlan } from '../hooks';
import { Group, Hint } from './parts';

const FORMATS: { readonly [F in FileFormat]: string } = {
  png: 'PNG',
  raw: 'RAW',
  tiff: 'TIFF',
  exr: 'EXR',
  asc: 'ASCII grid',
};
const STORED: { readonly [E in EncodingId]: string } = {
  u16: '16 bits',
  u8: '8 bits',
  f32: 'Metres',
  'f32-share': '0 to 1',
};

/** In which format the files are written, how heights are stored in them, and in which order. */
export function FileFields() {
  const recipe = useCurrentRecipe();
  if (!recipe) return null;
  const { output } = recipe;
  const target = writtenTarget(recipe);
  const { encoding } = target;
  const ways = HELD_BY[output.format].filter((id) => target.encodings.includes(id) || id === encoding.id);
  return (
    <Group title="Files">
      <Segmented
        label="Format"
        value={output.format}
        onChange={(format) => choose((r) => withOutput(r, { format }))}
        choices={FILE_FORMATS.map((value) => ({
          value,
          label: FORMATS[value],
          disabled: !target.formats.includes(value),
        }))}
      />
      {ways.length > 1 && (
        <Segmented
          label="Heights are stored as"
          value={encoding.id}
          onChange={(id) => choose((r) => withOutput(r, { encoding: id }))}
          choices={ways.map((value) => ({ value, label: STORED[value] }))}
        />
      )}
      <Hint>{storedWords(target, output.format)}</Hint>
      {PACKED.includes(output.format) && (
        <>
          <Segmented
            label="Size of the files"
            value={output.compression ?? 'none'}
            onChange={(compression) => choose((r) => withOutput(r, { compression }))}
            choices={[
              { value: 'none', label: 'Not packed' },
              { value: 'deflate', label: 'Packed' },
            ]}
          />
          <Hint>
            Packed (Deflate), files are smaller and hold the same heights. Some importers read only files that are not
            packed.
          </Hint>
        </>
      )}
      {output.format === 'raw' && <Orders output={output} bytes={encoding.bits / 8} />}
      <PlaceHint format={output.format} />
    </Group>
  );
}

function storedWords({ encoding, highestCode }: WrittenTarget, format: FileFormat): string {
  switch (encoding.stores) {
    case 'codes':
      return `Each height is one of ${formatNumber(highestCode + 1, 0)} steps between the lowest and the highest.`;
    case 'metres':
      return `Each height is its elevation in metres, as a ${format === 'asc' ? 'number in text' : '32-bit float'}: there are no steps and no range to type.`;
    case 'shares':
      return 'Each height is a 32-bit float: 0 is the lowest elevation, 1 the highest. Both are on the import card.';
  }
}

/** Of a RAW, which says neither itself. */
function Orders({ output, bytes }: { output: Recipe['output']; bytes: number }) {
  return (
    <>
      {bytes > 1 && (
        <>
          <Segmented
            label="Byte order"
            value={output.byteOrder}
            onChange={(byteOrder) => choose((r) => withOutput(r, { byteOrder }))}
            choices={[
              { value: 'little', label: 'Little-endian' },
              { value: 'big', label: 'Big-endian' },
            ]}
          />
          <Hint>Byte order: which end of each number comes first; wrong, the terrain is noise.</Hint>
        </>
      )}
      <Segmented
        label="Rows in the file"
        value={output.rows}
        onChange={(rows) => choose((r) => withOutput(r, { rows }))}
        choices={[
          { value: 'north', label: 'North row first' },
          { value: 'south', label: 'South row first' },
        ]}
      />
      <Hint>Wrong, the terrain is mirrored north to south.</Hint>
    </>
  );
}

/** Whether the files keep the place on the map that their source states. */
function PlaceHint({ format }: { format: FileFormat }) {
  const map = usePlan()?.document.map;
  if (!map) return null;
  return (
    <Hint>
      {saysPlace(format, map)
        ? 'The source says where it lies on the map; so do the files.'
        : 'The source says where it lies on the map. These files can’t; the import page gives the coordinates.'}
    </Hint>
  );
}
