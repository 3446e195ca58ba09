'use client';
import { useState } from 'react';
import { BUILT_IN_TARGETS, maybe, traitsOf, type Target, type Traits } from '@/core/targets';
import { Button, Sheet } from '@/ui';

type Asked = {
  readonly [K in keyof Traits]: { readonly question: string; readonly answers: Record<Traits[K], string> };
};

/** What can be seen on the import of an engine or editor, in the words of somebody who sits before it. */
const ASKED: Asked = {
  heights: {
    question: 'What does its import ask about heights?',
    answers: {
      scale: 'a factor, and how far up or down',
      elevations: 'metres: a range, or the lowest and the highest',
      layers: 'layers of blocks',
      nothing: 'nothing',
    },
  },
  sizes: {
    question: 'Which sizes of picture does it take?',
    answers: {
      odd: 'a power of two and one more: 513, 1025, 2049',
      even: 'a power of two: 512, 1024, 2048',
      components: 'a list of odd ones: 253, 505, 1009, 2017',
      tiles: 'so many tiles of a power of two',
      multiples: 'so many times a number, and some more',
      one: 'one size only',
      any: 'any size',
    },
  },
  width: {
    question: 'And about how wide the ground is?',
    answers: {
      scale: 'a factor for each axis',
      extent: 'its width and depth',
      spacing: 'from one sample to the next',
      nothing: 'nothing: the map is as wide as it is',
    },
  },
};
const QUESTIONS = Object.keys(ASKED) as (keyof Traits)[];

/** Answers that some target would give, in the order of the targets. */
const answersTo = (key: keyof Traits): readonly string[] => [
  ...new Set(BUILT_IN_TARGETS.map((t) => traitsOf(t)[key] as string)),
];

function Question({
  of,
  known,
  onAnswer,
}: {
  of: keyof Traits;
  known: Partial<Traits>;
  onAnswer: (answer: string | undefined) => void;
}) {
  const { question, answers } = ASKED[of];
  /** Whether any target is left with this answer. */
  const left = (answer: string): boolean => BUILT_IN_TARGETS.some((t) => maybe(t, { ...known, [of]: answer }));
  return (
    <fieldset className="flex flex-col">
      <legend className="font-semibold mb-1">{question}</legend>
      {[undefined, ...answersTo(of)].map((answer) => {
        const open = answer === undefined || left(answer);
        return (
          <label key={answer ?? ''} className={`flex gap-2 items-baseline py-[3px] ${open ? '' : 'text-quiet'}`}>
            <input
              type="radio"
              name={of}
              className="accent-kelp translate-y-[2px]"
              checked={known[of] === answer}
              disabled={!open}
              onChange={() => onAnswer(answer)}
            />
            {answer === undefined ? 'I don’t know' : (answers as Record<string, string>)[answer]}
          </label>
        );
      })}
    </fieldset>
  );
}

/** Finds the target of somebody who does not know its name: three questions, and what is left. */
export function WhichTarget({
  open,
  taken,
  onTake,
  onClose,
}: {
  open: boolean;
  /** Id of the target that the project has. */
  taken: string;
  onTake: (id: string) => void;
  onClose: () => void;
}) {
  const [known, setKnown] = useState<Partial<Traits>>({});
  const left = BUILT_IN_TARGETS.filter((t) => maybe(t, known));
  return (
    <Sheet open={open} title="Which kind of target is mine?" onClose={onClose} width="max-w-4xl">
      <div className="grid wide:grid-cols-2 gap-6">
        <div className="flex flex-col gap-4">
          <p className="text-quiet">Look at the import of your engine or editor, and answer what you can see there.</p>
          {QUESTIONS.map((of) => (
            <Question
              key={of}
              of={of}
              known={known}
              onAnswer={(answer) =>
                setKnown(({ [of]: _, ...others }) => (answer ? { ...others, [of]: answer } : others))
              }
            />
          ))}
        </div>
        <section aria-label="What it may be" aria-live="polite" className="flex flex-col gap-2">
          <h3 className="font-semibold">
            {left.length === BUILT_IN_TARGETS.length
              ? `One of these ${left.length}`
              : left.length === 1
                ? 'It is this one'
                : `One of ${left.length}`}
          </h3>
          <ul className="flex flex-col">
            {left.map((t) => (
              <Candidate key={t.id} target={t} taken={t.id === taken} onTake={() => onTake(t.id)} />
            ))}
          </ul>
          <p className="text-quiet text-[13px]">
            None of them is quite yours? Take the nearest one, save its description under Fit, change it and open it.
          </p>
        </section>
      </div>
    </Sheet>
  );
}

function Candidate({ target, taken, onTake }: { target: Target; taken: boolean; onTake: () => void }) {
  return (
    <li className="grid grid-cols-[1fr_auto] gap-x-3 border-t border-rule py-2 last:border-b">
      <span className="font-semibold">{target.name}</span>
      {taken ? (
        <span className="text-quiet">is taken</span>
      ) : (
        <Button kind="link" onClick={onTake} aria-label={`Take ${target.name}`}>
          take it
        </Button>
      )}
      <span className="col-span-2 text-[13px] leading-[17px]">{target.summary}</span>
      <span className="col-span-2 text-[13px] leading-[17px] text-quiet">
        Of a wrong size: {target.wrongSize.charAt(0).toLowerCase() + target.wrongSize.slice(1)}
      </span>
    </li>
  );
}
