'use client';
import { formatShort } from '@/core/base';
import { groundSpacing, type RasterInfo } from '@/core/raster';
import { proposedSquares } from '@/core/squares';
import type { StepOf } from '@/core/recipe';
import { stepOf, withReprojection } from '@/core/edits';
import { useSession } from '@/state';
import { Button, CheckBox, NumberField } from '@/ui';
import { choose, useCurrentRecipe, useEnteringInfo } from '../hooks';
import { Group, Hint } from './parts';

/** A raster in degrees, or of a map that stretches the ground, becomes square metres. */
export function SquareMetres() {
  const recipe = useCurrentRecipe();
  const squares = recipe && stepOf(recipe, 'reproject');
  const info = useSession((s) => s.facts?.info);
  if (!info) return null;
  if (squares) return <AreSquares squares={squares} info={info} />;
  const proposed = proposedSquares(info);
  const ground = groundSpacing(info);
  if (!proposed || !ground) return null;
  return (
    <Group title={info.georeference?.degrees ? 'Degrees' : 'A map that stretches the ground'}>
      <Hint>
        On the ground samples lie {formatShort(ground.east, 2)} m apart east–west and {formatShort(ground.north, 2)} m
        north–south. A target takes squares.
      </Hint>
      <div>
        <Button kind="solid" onClick={() => choose((r) => withReprojection(r, proposed, info))}>
          Make squares of {formatShort(proposed.spacing, 2)} m
        </Button>
      </div>
    </Group>
  );
}

function AreSquares({ squares, info }: { squares: StepOf<'reproject'>; info: RasterInfo }) {
  const made = useEnteringInfo();
  const proposed = proposedSquares(info)?.spacing;
  const take = (change: Partial<Omit<typeof squares, 'op'>>): void => {
    const { op: _, ...said } = squares;
    const changed = { ...said, ...change };
    choose((r) => withReprojection(r, changed, info));
  };
  const once = squares.spacing === 'rung';
  return (
    <Group title="Square metres" aside={`zone ${squares.zone} ${squares.south ? 'south' : 'north'}`}>
      {squares.spacing === 'rung' ? null : (
        <NumberField
          label="Sample to sample"
          unit="m"
          value={squares.spacing}
          min={1e-3}
          max={1e5}
          hint={made ? `${made.width} × ${made.height} squares.` : ''}
          onCommit={(spacing) => take({ spacing })}
        />
      )}
      <div>
        <CheckBox
          label="Straight to the vertices of the fit"
          checked={once}
          onChange={(on) => take({ spacing: on ? 'rung' : (proposed ?? 1) })}
        />
        <Hint>
          {once && made
            ? `Ground is sampled once. Its ${made.width} × ${made.height} squares are only counted, to choose a size.`
            : 'Ground is then sampled once, not first as squares and then as vertices: finer detail stays.'}
        </Hint>
      </div>
      <div>
        <CheckBox
          label="All of the ground, with empty corners"
          checked={squares.whole ?? false}
          onChange={(whole) => take({ whole: whole || undefined })}
        />
        <Hint>Else the largest rectangle that is full.</Hint>
      </div>
      <div>
        <Button kind="link" onClick={() => choose((r) => withReprojection(r, null, info))}>
          Leave it as it lies
        </Button>
      </div>
    </Group>
  );
}
