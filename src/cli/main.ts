import { Command, CommanderError } from 'commander';
import { asLevelGridError, type LevelGridError } from '../core/base';
import { endingCode, endingFault, hearOfEnding } from './ending';
import { inspect } from './inspect';
import { layouts } from './layouts';
import { errorText, type CommandResult } from './output';
import { planCommand } from './plan';
import { proveCommand } from './prove';
import { runCommand } from './run';

const collect = (value: string, before: string[]): string[] => [...before, value];

/** Runs a command and prints what it gives: one JSON document or readable text. Returns the exit code. */
async function print(json: boolean, work: () => CommandResult | Promise<CommandResult>): Promise<number> {
  try {
    const result = await work();
    // asked to end when all was done: what was written is whole
    process.stdout.write(json ? `${JSON.stringify(result.json)}\n` : `${result.text}\n`);
    return result.fine ? 0 : 1;
  } catch (reason) {
    const ended = endingCode();
    const error: LevelGridError = ended === null ? asLevelGridError(reason, 'running the command') : endingFault();
    if (json && error.code !== 'usage') process.stdout.write(`${JSON.stringify({ error: error.toRecord() })}\n`);
    process.stderr.write(`${errorText(error)}\n`);
    return ended ?? (error.code === 'usage' ? 2 : 1);
  }
}

function program(done: (code: number) => void): Command {
  const root = new Command('level-grid')
    .description('Converts terrain heightmaps to what a target expects, with the values for a correct import, proved.')
    .exitOverride()
    .showHelpAfterError(false);
  root
    .command('inspect')
    .description('say what height files really hold')
    .argument('<file...>', 'PNG or RAW files')
    .option('--raw <layout>', 'layout of headerless files: WIDTH,HEIGHT,TYPE,ORDER[,SKIP]')
    .option('--json', 'print one JSON document')
    .action(async (files: string[], o: { raw?: string; json?: boolean }) =>
      done(await print(o.json ?? false, () => inspect(files, o))),
    );
  root
    .command('layouts')
    .description('list the sizes a target accepts against a source')
    .requiredOption('--samples <n>', 'samples per side of the source')
    .requiredOption('--target <id>', 'component-grid or odd-grid')
    .option('--json', 'print one JSON document')
    .action(async (o: { samples: string; target: string; json?: boolean }) =>
      done(await print(o.json ?? false, () => layouts(o))),
    );
  root
    .command('plan')
    .description('work out every size, value, file and check, without writing')
    .argument('<file...>', 'the source')
    .requiredOption('--recipe <file>', 'the recipe (JSON)')
    .option('--json', 'print one JSON document')
    .action(async (files: string[], o: { recipe: string; json?: boolean }) =>
      done(await print(o.json ?? false, () => planCommand(files, o))),
    );
  root
    .command('run')
    .description('write the pack: height files, import page, recipe')
    .argument('<file...>', 'the source')
    .requiredOption('--recipe <file>', 'the recipe (JSON)')
    .requiredOption('--out <folder>', 'where the files go')
    .option('--zip', 'add one zip of the same files')
    .option('--replace', 'write over older files that are not of this pack')
    .option('--workers <n>', 'threads that encode pictures (default: as many as cores, at most 8)')
    .option('--draft <vertices>', 'a draft pack at this rung (vertices per side of a tile)')
    .option('--json', 'print one JSON document')
    .action(
      async (
        files: string[],
        o: {
          recipe: string;
          out: string;
          zip?: boolean;
          draft?: string;
          workers?: string;
          replace?: boolean;
          json?: boolean;
        },
      ) => done(await print(o.json ?? false, () => runCommand(files, o))),
    );
  root
    .command('prove')
    .description('read a pack back as the target would and compare with the truth')
    .argument('<folder>', 'the folder of a pack')
    .option('--reference <file>', 'the source, as the truth')
    .option('--typed <id=value>', 'a value typed otherwise than the card says (repeatable)', collect, [])
    .option('--ignore-checksums', 'compare even where a file was changed')
    .option('--json', 'print one JSON document')
    .action(
      async (folder: string, o: { reference?: string; typed?: string[]; ignoreChecksums?: boolean; json?: boolean }) =>
        done(await print(o.json ?? false, () => proveCommand(folder, o))),
    );
  return root;
}

async function main(): Promise<number> {
  let code = 0;
  try {
    const root = program((c) => {
      code = c;
    });
    if (process.argv.length <= 2) {
      root.outputHelp({ error: true });
      return 2;
    }
    await root.parseAsync();
  } catch (reason) {
    if (!(reason instanceof CommanderError)) {
      process.stderr.write(`${errorText(asLevelGridError(reason, 'running the command'))}\n`);
      return 1;
    }
    return reason.exitCode === 0 ? 0 : 2;
  }
  return code;
}

hearOfEnding();
process.exitCode = await main();
