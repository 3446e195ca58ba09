'use client';
import { formatNumber, formatShort } from '@/core/base';
import { roomyVolume } from '@/core/edits';
import type { Box, MeshFacts, MeshOptions, RasterInfo } from '@/core/raster';
import { rereadBaked, rereadInVolume, useSession } from '@/state';
import { Button, NumberField, Segmented, Select } from '@/ui';
import { Group, Hint } from './parts';

/** Units that meshes are made in, and their metres. */
const UNITS = [
  { value: '1', label: 'metres' },
  { value: '0.01', label: 'centimetres' },
  { value: '0.001', label: 'millimetres' },
  { value: '0.3048', label: 'feet' },
] as const;

/** How a mesh becomes a raster: its axes, its unit, how fine, and a volume that stays. */
export function MeshPanel() {
  const info = useSession((s) => s.facts?.info);
  return info?.mesh ? <Baking mesh={info.mesh} info={info} /> : null;
}

function Baking({ mesh, info }: { mesh: MeshFacts; info: RasterInfo }) {
  const { options, guessed } = mesh;
  const take = (change: Partial<MeshOptions>): void => void rereadBaked({ ...options, ...change });
  const unit = UNITS.find((u) => Number(u.value) === options.metres)?.value ?? null;
  return (
    <Group title="Mesh, seen from above" aside={`${info.width} × ${info.height}`}>
      <div>
        <Segmented
          label="The axis that is up"
          value={options.up}
          onChange={(up) => take({ up })}
          choices={[
            { value: 'z', label: 'Z is up' },
            { value: 'y', label: 'Y is up' },
          ]}
        />
        {guessed && <Hint>Guessed: ground is lower than it is wide. The file does not say it.</Hint>}
      </div>
      <label className="flex items-center justify-between gap-3">
        <span>One unit is a</span>
        <Select
          label="Unit of the mesh"
          value={unit ?? 'other'}
          options={[
            ...UNITS.map(({ value, label }) => ({ value: value, label })),
            ...(unit === null ? [{ value: 'other', label: `${formatShort(options.metres, 6)} m` }] : []),
          ]}
          onChange={(value) => {
            if (value !== 'other') take({ metres: Number(value) });
          }}
          className="w-36"
        />
      </label>
      <NumberField
        label="Sample to sample"
        unit="m"
        value={options.spacing}
        min={1e-6}
        max={1e5}
        hint={`The highest surface is taken at each of ${formatNumber(info.width * info.height, 0)} places.`}
        onCommit={(spacing) => take({ spacing })}
      />
      <Volume mesh={mesh} />
    </Group>
  );
}

const span = (box: Box, axis: 0 | 1 | 2): string =>
  `${formatShort(box.min[axis], 2)} to ${formatShort(box.max[axis], 2)} m`;

/** Where the mesh lies, or the volume that was pinned. */
function Volume({ mesh: { bounds, options } }: { mesh: MeshFacts }) {
  const { volume } = options;
  const box = volume ?? bounds;
  return (
    <div className="flex flex-col gap-1">
      <dl
        aria-label={volume ? 'The pinned volume' : 'Where the mesh lies'}
        className="grid grid-cols-[auto_1fr] gap-x-3"
      >
        {(['East', 'North', 'Height'] as const).map((name, axis) => (
          <div key={name} className="contents">
            <dt className="text-quiet">{name}</dt>
            <dd className="num text-[13px] text-right">{span(box, axis as 0 | 1 | 2)}</dd>
          </div>
        ))}
      </dl>
      {volume ? (
        <>
          <NumberField
            label="Lowest height"
            unit="m"
            value={volume.min[2]}
            min={-20000}
            max={volume.max[2] - 0.01}
            onCommit={(low) => void rereadInVolume(options, { ...volume, min: [volume.min[0], volume.min[1], low] })}
          />
          <NumberField
            label="Highest height"
            unit="m"
            value={volume.max[2]}
            min={volume.min[2] + 0.01}
            max={20000}
            hint={`The mesh reaches from ${span(bounds, 2)}: the rest is room to sculpt in.`}
            onCommit={(high) => void rereadInVolume(options, { ...volume, max: [volume.max[0], volume.max[1], high] })}
          />
          <Hint>Pinned: however the mesh is sculpted, place, size and codes stay. What reaches beyond is counted.</Hint>
          <div>
            <Button kind="link" onClick={() => void rereadInVolume(options, null)}>
              Let the volume follow the mesh
            </Button>
          </div>
        </>
      ) : (
        <>
          <Hint>
            A mesh that is sculpted further grows: pin its volume now, with a tenth of its height free, and codes stay.
          </Hint>
          <div>
            <Button onClick={() => void rereadInVolume(options, roomyVolume(bounds))}>Pin this volume</Button>
          </div>
        </>
      )}
    </div>
  );
}
