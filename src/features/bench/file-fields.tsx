'use client';
import { formatNumber } from '@/core/base';
import { withOutput } from '@/core/edits';
import { FILE_FORMATS, HELD_BY, type EncodingId, type FileFormat } from '@/core/raster';
import { writtenTarget } from '@/core/targets';
import { Segmented } from '@/ui';
import { choose, useCurrentRecipe } from '../hooks';
import { Group, Hint } from './parts';

const FORMATS: { readonly [F in FileFormat]: string } = { png: 'PNG', raw: 'RAW', tiff: 'TIFF', exr: 'EXR' };
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
      <Hint>
        {encoding.stores === 'codes'
          ? `Each height is one of ${formatNumber(target.highestCode + 1, 0)} steps between the lowest and the highest.`
          : encoding.stores === 'metres'
            ? 'Each height is its elevation in metres, as a 32-bit float: there are no steps and no range to type.'
            : 'Each height is a 32-bit float: 0 is the lowest elevation, 1 the highest. Both are on the import card.'}
      </Hint>
      {output.format === 'raw' && (
        <>
          {encoding.bits > 8 && (
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
      )}
    </Group>
  );
}
