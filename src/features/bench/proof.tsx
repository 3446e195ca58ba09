'use client';
import { makePack, noteTyped, patchSession, showSpot, showWorst, typedAsOnCard, useRecipe, useSession } from '@/state';
import { Button, Segmented } from '@/ui';
import { useCurrentRecipe, usePackKey, usePlan } from '../hooks';
import { Errors, ProofChecks, ProofSpots, TypedValues, Verdict } from '../proof-parts';
import { BenchHead, Group, Hint } from './parts';

/** Which of the two errors the map shows. */
function DifferenceChoice() {
  const errorKind = useSession((s) => s.errorKind);
  return (
    <div className="flex flex-col gap-1 items-start [&>*:first-child]:w-full">
      <Segmented
        label="Difference view"
        value={errorKind}
        onChange={(k) => patchSession({ errorKind: k, view: 'difference' })}
        choices={[
          { value: 'encoding', label: 'Encoding error' },
          { value: 'ground', label: 'Ground error' },
        ]}
      />
      <Button kind="link" onClick={() => patchSession({ view: 'difference' })}>
        show on the map
      </Button>
    </div>
  );
}

export function ProofBench() {
  const recipe = useCurrentRecipe();
  const plan = usePlan();
  const proof = useSession((s) => s.proof);
  const pack = useSession((s) => s.pack);
  const typed = useRecipe((s) => s.typed);
  const working = useSession((s) => s.job !== null);
  const key = usePackKey();
  if (!recipe || !plan) return null;
  const current = proof?.key === key;
  const blocked = plan.refusals.length > 0;
  return (
    <>
      <BenchHead title="Proof">
        The files are read back as the target would, with the values that are typed in, and held against the source.
      </BenchHead>
      <div className="flex gap-2 items-center">
        <Button kind="solid" disabled={blocked || working} onClick={() => void makePack()}>
          {current ? 'Write and prove again' : 'Write the files and prove them'}
        </Button>
      </div>
      {proof && (
        <>
          <Verdict proof={proof.proof} aside={current ? undefined : 'the choices have changed since'} />
          <Errors proof={proof.proof} {...(proof.maps && { onShow: showWorst })} />
          <Group title="What was compared">
            <ProofChecks proof={proof.proof} />
            <DifferenceChoice />
          </Group>
        </>
      )}
      {pack && (
        <Group
          title="What was typed"
          aside={
            Object.keys(typed).length > 0 ? (
              <Button kind="link" onClick={typedAsOnCard}>
                as on the card
              </Button>
            ) : (
              'as on the card'
            )
          }
        >
          <Hint>
            Type what the target really holds; the proof is made again with it and names the value that is wrong.
          </Hint>
          <TypedValues card={pack.document.card} typed={typed} onType={noteTyped} />
        </Group>
      )}
      {proof && (
        <Group title="Check spots" aside="height in the target">
          <ProofSpots proof={proof.proof} onShow={showSpot} />
        </Group>
      )}
    </>
  );
}
