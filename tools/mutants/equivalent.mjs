// Slips that change nothing anybody could see, and why. `line`: the whole line as it stands, without its indent.

/** @type {{ file: string, line: string, from: string, to: string, why: string }[]} */
export const EQUIVALENT = [
  {
    file: 'src/core/run/run.ts',
    line: 'if (record.tally.voids > 0) throw voidRefusal(record.tally.voids, facts.file);',
    from: 'if (record.tally.voids > 0) throw',
    to: 'if (record.tally.voids < 0) throw',
    why: 'a second guard: voids that nothing fills are counted, and refused, before the first band is made',
  },
];
