import { Command, CommanderError } from 'commander';
import { asLevelGridError, manyLines, type LevelGridError } from '../core/base';
import type { Perform } from './command';
import { declare as bringIn } from './commands/bring-in';
import { declare as compare } from './commands/compare';
import { declare as edit } from './commands/edit';
import { declare as inspect } from './commands/inspect';
import { declare as layouts } from './commands/layouts';
import { declare as plan } from './commands/plan';
import { declare as prove } from './commands/prove';
import { declare as run } from './commands/run';
import { declare as survey } from './commands/survey';
import { declare as targets } from './commands/targets';
import { declare as where } from './commands/where';
import { errorText, say, sayJson } from './output';
import { listenForSignals, signalError, signalExitCode } from './signals';

/** In the order in which they are listed; what one does is loaded when it is asked for. */
const COMMANDS: readonly ((root: Command, perform: Perform) => void | Promise<void>)[] = [
  inspect,
  bringIn,
  compare,
  where,
  survey,
  targets,
  layouts,
  plan,
  edit,
  run,
  prove,
];

/** Runs a command and prints what it gives: one JSON document or readable text. Returns the exit code. */
const print: (...args: Parameters<Perform>) => Promise<number> = async ({ json = false, verbose = false }, work) => {
  try {
    const result = await work();
    // asked to end when all was done: what was written is whole
    if (json) sayJson(result.json);
    else say(process.stdout, result.text);
    return result.fine ? 0 : 1;
  } catch (reason) {
    const ended = signalExitCode();
    const error: LevelGridError = ended === null ? asLevelGridError(reason, 'running the command') : signalError();
    const { details, ...record } = error.toRecord();
    if (json && error.code !== 'usage') sayJson({ error: verbose ? { ...record, details } : record });
    say(process.stderr, errorText(error.toRecord(), verbose));
    return ended ?? (error.code === 'usage' ? 2 : 1);
  }
};

async function program(done: (code: number) => void): Promise<Command> {
  const root = new Command('level-grid')
    .description('Converts terrain heightmaps to what a target expects, with the values for a correct import, proved.')
    .exitOverride()
    .configureOutput({ writeErr: (text) => process.stderr.write(manyLines(text)) })
    .showHelpAfterError(false);
  const perform: Perform = async (options, work) => done(await print(options, work));
  for (const declare of COMMANDS) await declare(root, perform);
  return root;
}

async function main(): Promise<number> {
  let code = 0;
  try {
    const root = await program((c) => {
      code = c;
    });
    if (process.argv.length <= 2) {
      root.outputHelp({ error: true });
      return 2;
    }
    await root.parseAsync();
  } catch (reason) {
    if (!(reason instanceof CommanderError)) {
      say(process.stderr, errorText(asLevelGridError(reason, 'running the command').toRecord()));
      return 1;
    }
    return reason.exitCode === 0 ? 0 : 2;
  }
  return code;
}

listenForSignals();
process.exitCode = await main();
