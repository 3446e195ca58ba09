'use client';
import { useState } from 'react';
import { isHeightName } from '@/core/formats';
import { decideProposal, patchSession, useSession, type Proposal } from '@/state';
import { Button, Segmented, Sheet } from '@/ui';
import { Board } from './board';
import { Candidates } from './candidates';
import { Terrain } from './terrain';

type Way = 'terrain' | 'hand' | 'compare';

/** Several files at once: one terrain, laid out by hand, data sets of the same ground, or a project each. */
export function ProposalSheet() {
  const proposal = useSession((s) => s.proposal);
  const close = (): void => patchSession({ proposal: null });
  const count = (proposal?.files ?? []).filter((f) => isHeightName(f.name)).length;
  return (
    <Sheet
      open={proposal !== null}
      title={proposal?.arrangement ? `${count} files make one terrain` : `${count} files at once`}
      onClose={close}
      width="max-w-2xl"
    >
      {proposal && <Ways key={proposal.board} proposal={proposal} onClose={close} />}
    </Sheet>
  );
}

function Ways({ proposal, onClose }: { proposal: Proposal; onClose: () => void }) {
  const { arrangement, refused } = proposal;
  const [way, setWay] = useState<Way>(arrangement ? 'terrain' : refused?.file ? 'compare' : 'hand');
  return (
    <div className="flex flex-col gap-3">
      {refused && (
        <p>
          How they belong together is not said: {refused.file !== null && `${refused.file}: `}found {refused.found}.{' '}
          {refused.remedy}
        </p>
      )}
      <Segmented
        label="What they are"
        value={way}
        onChange={setWay}
        choices={[
          ...(arrangement ? [{ value: 'terrain' as const, label: 'One terrain' }] : []),
          { value: 'hand', label: 'Lay out by hand' },
          { value: 'compare', label: 'The same ground: compare' },
        ]}
      />
      {way === 'terrain' && arrangement && (
        <>
          <Terrain arrangement={arrangement} />
          <div className="flex flex-wrap gap-2">
            <Button kind="solid" onClick={() => void decideProposal(arrangement)}>
              Put them together
            </Button>
          </div>
        </>
      )}
      {way === 'hand' && <Board proposal={proposal} />}
      {way === 'compare' && <Candidates proposal={proposal} />}
      <div className="flex flex-wrap gap-2 border-t border-rule pt-3">
        <Button onClick={() => void decideProposal('each')}>A project each</Button>
        <Button onClick={onClose}>Leave them</Button>
      </div>
    </div>
  );
}
