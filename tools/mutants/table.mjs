// What a draw has found, as docs/mutants.md shows it.

const VERDICTS = ['noticed', 'survived', 'equivalent', 'not judged'];
const short = (text) => text.replace(/\s+/g, ' ').slice(0, 60);
const told = (m) => `\`${m.file}:${m.line}\`: \`${short(m.from)}\` → \`${short(m.to)}\``;

/** The share of slips that change something, and were judged, which the tests have noticed. */
export const shareOf = (list) => {
  const noticed = list.filter((m) => m.verdict === 'noticed').length;
  const counted = noticed + list.filter((m) => m.verdict === 'survived').length;
  return counted === 0 ? '–' : `${noticed} of ${counted} (${Math.round((100 * noticed) / counted)} %)`;
};

export function tableOf({ seed, each, commit, mutants }) {
  const groups = [...new Set(mutants.map((m) => m.folder))];
  const count = (list, verdict) => list.filter((m) => m.verdict === verdict).length;
  const open = mutants.filter((m) => !m.verdict).length;
  const row = (name, list) =>
    `| ${name} | ${list.length} | ${VERDICTS.map((v) => count(list, v)).join(' | ')} | ${shareOf(list)} |`;
  const listed = (verdict, none) => {
    const list = mutants.filter((m) => m.verdict === verdict);
    return list.length === 0 ? [none] : list.map((m) => `- ${m.name ?? told(m)}${m.why ? `: ${m.why}` : ''}`);
  };
  return [
    '# Mutants',
    '',
    `Deliberate slips, one at a time, and whether the tests notice: \`npm run mutants\` (seed ${seed}, ${each === 0 ? 'all' : each} drawn per folder, begun at ${commit}). A slip is one operator, number, sign or bound changed. Before any of them the tests ran on an unchanged copy and were green. A slip is run against every test file that reaches its source. One that makes a test run out of time, or does not compile, is not judged; one that changes nothing is equivalent, with the reason; neither counts in the share.`,
    ...(open > 0 ? ['', `${open} of those drawn were not run yet.`] : []),
    '',
    `| folder | drawn | ${VERDICTS.join(' | ')} | share noticed |`,
    `| --- | --- | ${VERDICTS.map(() => '---').join(' | ')} | --- |`,
    ...groups.map((g) =>
      row(
        g,
        mutants.filter((m) => m.folder === g),
      ),
    ),
    row('**all**', mutants),
    '',
    '## Not noticed',
    '',
    ...listed('survived', 'None.'),
    '',
    '## Equivalent',
    '',
    ...listed('equivalent', 'None.'),
    '',
    '## Not judged',
    '',
    ...listed('not judged', 'None.'),
    '',
    '## By name',
    '',
    '| slip | verdict |',
    '| --- | --- |',
    ...mutants.filter((m) => m.name).map((m) => `| ${m.name} | ${m.verdict ?? 'not run yet'} |`),
    '',
  ].join('\n');
}
