// Whole processes of the command line, at five sizes from PNG and from TIFF of floats, and their proofs; by turns with an
// older commit where one is named, so that a loss of speed is seen when it happens.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, symlinkSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './install.mjs';

const git = (...args) => execFileSync('git', ['-C', root, ...args], { encoding: 'utf8' }).trim();

/** The command line of another commit, bundled by its own tools with the packages that are installed now. */
async function older(commit) {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'level-grid-older-'));
  rmSync(folder, { recursive: true });
  git('worktree', 'add', '--detach', folder, commit);
  symlinkSync(path.join(root, 'node_modules'), path.join(folder, 'node_modules'));
  const { buildCli } = await import(pathToFileURL(path.join(folder, 'tools/build-cli.mjs')).href);
  return { cli: await buildCli(), letGo: () => rmSync(folder, { recursive: true, force: true }) };
}

const median = (list) => [...list].sort((a, b) => a - b)[list.length >> 1];

/** Ratios of paired turns: the middle one, and the lowest. */
function ratioOf(ours, theirs) {
  const ratios = ours.map((s, i) => s / theirs[i]);
  return `${median(ratios).toFixed(3)} (lowest ${Math.min(...ratios).toFixed(3)})`;
}

/** The table in Markdown; `against`: a commit, or null. */
export async function processTable(benchProcesses, cli, { against, pairs, sizes }) {
  const other = against === null ? null : await older(against);
  try {
    const rows = await benchProcesses(other ? [cli, other.cli] : [cli], pairs, sizes);
    const second = other ? 1 : null;
    const lines = rows.map(({ job, seconds, peak }) => {
      const native = seconds[other ? 2 : 1];
      return `| ${job} | ${median(seconds[0]).toFixed(2)} | ${peak[0].toFixed(0)} | ${
        second === null ? '' : `${median(seconds[second]).toFixed(2)} | ${ratioOf(seconds[0], seconds[second])} | `
      }${native ? `${median(native).toFixed(2)} | ${ratioOf(seconds[0], native)}` : '| '} |`;
    });
    const head = [
      'job',
      's',
      'MB',
      ...(other ? [`s at ${git('rev-parse', '--short', against)}`, 'ratio'] : []),
      'native, s',
      'ratio',
    ];
    return [`| ${head.join(' | ')} |`, `|${' --- |'.repeat(head.length)}`, ...lines].join('\n');
  } finally {
    other?.letGo();
    if (other) git('worktree', 'prune');
  }
}
