'use client';
import { useEffect, useState } from 'react';
import { useSession } from '@/state';
import { Button } from '@/ui';

/** Progress, remaining time and cancel of the work that is going on. */
export function JobLine() {
  const job = useSession((s) => s.job);
  const [now, setNow] = useState(0);
  useEffect(() => {
    if (!job) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [job]);
  if (!job) return null;
  const spent = Math.max(0, now - job.started);
  const left =
    job.progress > 0.03 && spent > 1500 ? Math.ceil((spent * (1 - job.progress)) / job.progress / 1000) : null;
  return (
    <div data-job className="bg-panel border border-ink flex items-center gap-3 px-3 h-10">
      {/* told at tenths: every percent would talk without end */}
      <span className="sr-only" role="status">
        {job.label}: {Math.floor(job.progress * 10) * 10} %
      </span>
      <span className="max-w-44 truncate" aria-hidden="true">
        {job.label}
      </span>
      <span
        className="w-24 h-2 border border-ink"
        role="progressbar"
        aria-label={job.label}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.floor(job.progress * 10) * 10}
      >
        <span className="block h-full bg-kelp" style={{ width: `${job.progress * 100}%` }} />
      </span>
      <span className="num text-[12px] w-16 text-right" aria-hidden="true">
        {left === null ? `${Math.round(job.progress * 100)} %` : `${left} s left`}
      </span>
      <Button kind="link" onClick={() => job.cancel()}>
        cancel
      </Button>
    </div>
  );
}
