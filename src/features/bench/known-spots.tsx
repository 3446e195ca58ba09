'use client';
import { formatLength, formatShort } from '@/core/base';
import { throughSpots } from '@/core/edits';
import { editRecipe, patchSession, pickSpot, setKnownSpot, useSession, type SourceSpot } from '@/state';
import { Button, Fold, NumberField } from '@/ui';
import { usePlan } from '../hooks';
import { Hint } from './parts';

/** Heights by places of known elevation: one moves them all, two lay them out between. */
export function KnownSpots() {
  const spots = useSession((s) => s.knownSpots);
  const picking = useSession((s) => s.picking);
  const facts = useSession((s) => s.facts);
  if (!facts) return null;
  return (
    <Fold title="Known spots" open={spots.length > 0}>
      <Hint>
        Know how high a place is? Choose it on the map and type its elevation: one spot moves all heights up or down,
        two give low and high.
      </Hint>
      {spots.map((spot, i) => (
        <KnownSpotFields key={`${spot.column} ${spot.row}`} spot={spot} index={i} />
      ))}
      {picking ? (
        <p role="status">
          Click the place on the map, or press Enter there to take its middle.{' '}
          <Button kind="link" onClick={() => patchSession({ picking: false })}>
            Leave it
          </Button>
        </p>
      ) : (
        spots.length < 2 && (
          <Button kind="line" onClick={pickSpot}>
            {spots.length === 0 ? 'Choose a spot on the map' : 'Choose a second spot'}
          </Button>
        )
      )}
    </Fold>
  );
}

function KnownSpotFields({ spot, index }: { spot: SourceSpot; index: number }) {
  const ends = usePlan()?.work.entering.stage.ends;
  const spots = useSession((s) => s.knownSpots);
  if (!ends) return null;
  const commit = (elevation: number): void => {
    const next = spots.map((s, i) => (i === index ? { ...s, elevation } : s));
    const known = next.flatMap(({ stored, elevation: e }) => (e === null ? [] : [{ stored, elevation: e }]));
    editRecipe((r) => throughSpots(r, ends, known));
    patchSession({ knownSpots: next });
  };
  const off = spot.elevation === null ? null : spot.shown - spot.elevation;
  return (
    <div className="flex flex-col gap-1 border-l-2 border-rule pl-2">
      <NumberField
        label={`Spot ${index + 1}: elevation`}
        unit="m"
        value={spot.elevation}
        hint={`Column ${spot.column}, row ${spot.row}; stored ${formatShort(spot.stored, 6)}${
          off === null
            ? `, ${formatShort(spot.shown, 2)} m so far`
            : `; it was ${formatLength(Math.abs(off))} ${off < 0 ? 'lower' : 'higher'}`
        }.`}
        onCommit={commit}
      />
      <div>
        <Button kind="link" onClick={() => setKnownSpot(index, null)}>
          Remove spot {index + 1}
        </Button>
      </div>
    </div>
  );
}
