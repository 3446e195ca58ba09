export type MarkState = 'holds' | 'note' | 'caution' | 'fault' | 'not-yet';

const WORDS: Record<MarkState, string> = {
  holds: 'holds',
  note: 'note',
  caution: 'caution',
  fault: 'fault',
  'not-yet': 'not yet',
};
const COLOURS: Record<MarkState, string> = {
  holds: 'text-kelp',
  note: 'text-quiet',
  caution: 'text-ochre',
  fault: 'text-madder',
  'not-yet': 'text-quiet',
};

/** A state as a shape with its word for screen readers: full, half, struck and empty square; a dash for a note. */
export function Mark({ state, silent = false }: { state: MarkState; silent?: boolean }) {
  return (
    <span className={`inline-flex shrink-0 ${COLOURS[state]}`}>
      <svg width="10" height="10" viewBox="0 0 10 10" aria-hidden="true">
        {state === 'note' ? (
          <path d="M0.75 5h8.5" stroke="currentColor" strokeWidth="2" />
        ) : (
          <rect
            x="0.75"
            y="0.75"
            width="8.5"
            height="8.5"
            fill={state === 'holds' ? 'currentColor' : 'none'}
            stroke="currentColor"
            strokeWidth="1.5"
          />
        )}
        {state === 'caution' && <rect x="0.75" y="0.75" width="4.25" height="8.5" fill="currentColor" />}
        {state === 'fault' && <path d="M1 9 9 1M1 5.2 5.2 1M4.8 9 9 4.8" stroke="currentColor" strokeWidth="1.4" />}
      </svg>
      {!silent && <span className="sr-only">{WORDS[state]}: </span>}
    </span>
  );
}
