// Slips that change nothing anybody could see, and why. `line`: the whole line as it stands, without its indent.

/** @type {{ file: string, line: string, from: string, to: string, why: string }[]} */
export const EQUIVALENT = [];
