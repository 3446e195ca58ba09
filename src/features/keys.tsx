'use client';
import { useState } from 'react';
import { CheckBox, Sheet } from '@/ui';
import { letterShortcuts, setLetterShortcuts } from './page-keys';

const KEYS: readonly (readonly [string, string])[] = [
  ['1 … 7', 'go to a step of the chain'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['R  H  S  T  D', 'relief, heights, slope, steps, difference'],
  ['C', 'compare source and result'],
  ['N', 'light or dark theme'],
  ['← → ↑ ↓', 'move the map, a section end, the wipe, or a rung, whichever has the focus'],
  ['+  −  0', 'zoom the map, show all'],
  ['Esc', 'closes what lies over the page, takes back what is being typed'],
  ['?', 'this list'],
];

/** Single keys can be in the way of speech input. */
function Letters() {
  const [act, setAct] = useState(letterShortcuts);
  return (
    <div className="mt-3">
      <CheckBox
        label="Single letters and digits are shortcuts"
        checked={act}
        onChange={(on) => {
          setLetterShortcuts(on);
          setAct(letterShortcuts());
        }}
      />
    </div>
  );
}

export function KeysSheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Sheet open={open} title="Keyboard shortcuts" onClose={onClose}>
      <table className="w-full">
        <tbody>
          {KEYS.map(([key, what]) => (
            <tr key={key} className="border-b border-rule last:border-0">
              <th scope="row" className="num text-left font-normal py-1 pr-4 whitespace-nowrap">
                {key}
              </th>
              <td>{what}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Letters />
      <p className="text-quiet mt-3">Number fields take sums: 601*30, 1.5k.</p>
    </Sheet>
  );
}
