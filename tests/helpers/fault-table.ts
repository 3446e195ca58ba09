import { mkdirSync, writeFileSync } from 'node:fs';

const HEAD = ['| put into | fault | proof | named as |', '| --- | --- | --- | --- |'];

/**
 * Faults that were put into packs, and how the proof named them: one table for each file of tests, kept in
 * `reports/faults/NAME.md` when its tests are over. Only what turned red comes in.
 */
export function faultTable(name: string): (into: string, what: string, named: string) => void {
  const rows: string[] = [];
  afterAll(() => {
    mkdirSync('reports/faults', { recursive: true });
    writeFileSync(`reports/faults/${name}.md`, `${[...HEAD, ...rows].join('\n')}\n`);
  });
  const cell = (text: string): string => text.replace(/\s+/g, ' ').replace(/\|/g, '\\|').slice(0, 160);
  return (into, what, named) => rows.push(`| ${cell(into)} | ${cell(what)} | red | ${cell(named)} |`);
}
