'use client';
import { Tab, TabGroup, TabList } from '@headlessui/react';

/** Tabs in a row; arrow keys, Home and End go from one to the next. What they choose is shown elsewhere. */
export function Tabs<T extends string>({
  label,
  value,
  choices,
  onChange,
  className = '',
}: {
  label: string;
  value: T;
  choices: readonly { readonly value: T; readonly label: string }[];
  onChange: (value: T) => void;
  className?: string;
}) {
  return (
    <TabGroup
      selectedIndex={Math.max(
        0,
        choices.findIndex((c) => c.value === value),
      )}
      onChange={(index) => {
        const choice = choices[index];
        if (choice) onChange(choice.value);
      }}
    >
      <TabList aria-label={label} className={`flex flex-wrap gap-x-3 wide:gap-x-4 ${className}`}>
        {choices.map((c) => (
          <Tab
            key={c.value}
            className="h-8 wide:h-9 whitespace-nowrap border-b-2 border-transparent text-quiet hover:text-ink data-selected:border-ink data-selected:text-ink data-selected:font-semibold focus-visible:outline-offset-[-3px]"
          >
            {c.label}
          </Tab>
        ))}
      </TabList>
    </TabGroup>
  );
}
