'use client';
import { useSession } from '@/state';
import { BenchHead, Hint } from './parts';

export function Clean() {
  const voids = useSession((s) => s.facts?.stats?.voids ?? null);
  return (
    <>
      <BenchHead title="Clean">This step has no choices yet: the raster passes through as it came.</BenchHead>
      <Hint>
        {voids === null
          ? 'Samples are being counted.'
          : voids === 0
            ? 'No sample is missing a height.'
            : `${voids} samples have no height. They stay so, and the Height step says what becomes of them.`}
      </Hint>
    </>
  );
}
