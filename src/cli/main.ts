import { Command, CommanderError } from 'commander';
import { asLevelGridError, manyLines, type LevelGridError } from '../core/base';
import { signalExitCode, signalError, listenForSignals } from './signals';
import { bringInCommand } from './bring-in';
import { surveyCommand } from './survey';
import { whereCommand } from './where';
import { compareCommand } from './compare';
import { editCommand, editNames } from './edit';
import { inspect } from './inspect';
import { layouts } from './layouts';
import { errorText, say, sayJson, type CommandResult } from './output';
import { planCommand } from './plan';
import { proveCommand } from './prove';
import { runCommand } from './run';

const collect = (value: string, before: string[]): string[] => [...before, value];

interface Printing {
  readonly json?: boolean;
  readonly verbose?: boolean;
}

/** Runs a command and prints what it gives: one JSON document or readable text. Returns the exit code. */
async function print(options: Printing, work: () => CommandResult | Promise<CommandResult>): Promise<number> {
  const { json = false, verbose = false } = options;
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
}

function program(done: (code: number) => void): Command {
  const root = new Command('level-grid')
    .description('Converts terrain heightmaps to what a target expects, with the values for a correct import, proved.')
    .exitOverride()
    .configureOutput({ writeErr: (text) => process.stderr.write(manyLines(text)) })
    .showHelpAfterError(false);
  root
    .command('inspect')
    .description('say what height files really hold')
    .argument('<file...>', 'height files, or zips of them')
    .option('--raw <layout>', 'layout of headerless files: WIDTH,HEIGHT,TYPE,ORDER[,SKIP]')
    .option('--up <axis>', 'of a mesh: the axis that is up, y or z')
    .option('--header', 'read the header only: no statistics')
    .option('--at <row,column>', 'the sample there, in the units of the file (repeatable)', collect, [])
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(
      async (
        files: string[],
        o: { raw?: string; up?: string; header?: boolean; at?: string[]; json?: boolean; verbose?: boolean },
      ) => done(await print(o, () => inspect(files, o))),
    );
  root
    .command('bring-in')
    .description('write a source as plain floats: metres where the file says what its heights are, NaN for voids')
    .argument('<file...>', 'the source: one file, or several that make one')
    .requiredOption('--out <file>', 'the file to write (floats of 32 bits, little-endian, rows from the north)')
    .option(
      '--spacing <metres>',
      'metres from sample to sample, where the file does not say it; of degrees, of the squares',
    )
    .option('--up <axis>', 'of a mesh: the axis that is up, y or z')
    .option('--member <name>', 'of a zip: the height file of this path inside')
    .option('--as-is', 'leave a raster in degrees as it lies; otherwise it becomes square metres')
    .option('--blend <samples>', 'of several files: spread steps at their seams over so many samples on either side')
    .option('--partial', 'rows that can’t be read become voids, instead of refusing the file')
    .option('--recipe <file>', 'read it as this recipe says, and do its steps: what enters the fit, in true metres')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(
      async (
        files: string[],
        o: {
          recipe?: string;
          out: string;
          spacing?: string;
          up?: string;
          blend?: string;
          member?: string;
          asIs?: boolean;
          partial?: boolean;
          json?: boolean;
          verbose?: boolean;
        },
      ) => done(await print(o, () => bringInCommand(files, o))),
    );
  root
    .command('compare')
    .description('hold data sets of the same ground against each other: voids, real detail, differences')
    .argument('<file...>', 'the data sets, or an archive that holds several')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(async (files: string[], o: { json?: boolean; verbose?: boolean }) =>
      done(await print(o, () => compareCommand(files))),
    );
  root
    .command('where')
    .description('say which of several files, also in archives, holds a place')
    .argument('<file...>', 'the files')
    .requiredOption('--place <east,north>', 'in the units of their coordinates; of degrees, longitude and latitude')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(async (files: string[], o: { place: string; json?: boolean; verbose?: boolean }) =>
      done(await print(o, () => whereCommand(files, o))),
    );
  root
    .command('survey')
    .description('take ground of the made-up survey that ships with Level Grid: heights, their record, a plain map')
    .requiredOption('--ground <borders>', 'WEST,SOUTH,EAST,NORTH in degrees, within 80.2,-47.6,80.8,-47.1')
    .requiredOption('--out <folder>', 'where the files go')
    .option('--set <name>', 'coarse, fine or composite', 'composite')
    .option('--as <form>', 'png, raw, tiff or hgt', 'png')
    .option('--stretch <factor>', 'factor on heights, said in the record', '1')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(
      async (o: {
        ground: string;
        out: string;
        set: string;
        as: string;
        stretch: string;
        json?: boolean;
        verbose?: boolean;
      }) => done(await print(o, () => surveyCommand(o))),
    );
  root
    .command('layouts')
    .description('list the sizes a target accepts against a source')
    .requiredOption('--samples <n>', 'samples per side of the source')
    .requiredOption('--target <id>', 'component-grid or odd-grid')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(async (o: { samples: string; target: string; json?: boolean; verbose?: boolean }) =>
      done(await print(o, () => layouts(o))),
    );
  root
    .command('plan')
    .description('work out every size, value, file and check, without writing')
    .argument('<file...>', 'the source')
    .requiredOption('--recipe <file>', 'the recipe (JSON)')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(async (files: string[], o: { recipe: string; json?: boolean; verbose?: boolean }) =>
      done(await print(o, () => planCommand(files, o))),
    );
  root
    .command('edit')
    .description('change a recipe by an edit, as the page and its repairs do; no source is read')
    .argument('<recipe>', 'the recipe (JSON)')
    .argument('<name>', `the edit: ${editNames()}`)
    .argument('[key=JSON...]', 'what the edit needs')
    .option('--out <file>', 'write the recipe there; left out: to standard output')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(
      async (recipe: string, name: string, given: string[], o: { out?: string; json?: boolean; verbose?: boolean }) =>
        done(await print(o, () => editCommand(recipe, name, given, o))),
    );
  root
    .command('run')
    .description('write the pack: height files, import page, recipe')
    .argument('<file...>', 'the source')
    .requiredOption('--recipe <file>', 'the recipe (JSON)')
    .requiredOption('--out <folder>', 'where the files go')
    .option('--zip', 'add one zip of the same files')
    .option('--prove', 'prove the pack before it is put in place; its pages tell what was found')
    .option('--replace', 'write over older files that are not of this pack')
    .option('--workers <n>', 'threads that encode pictures (default: as many as cores, at most 8)')
    .option('--draft <vertices>', 'a draft pack at this rung (vertices per side of a tile)')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(
      async (
        files: string[],
        o: {
          recipe: string;
          out: string;
          zip?: boolean;
          prove?: boolean;
          draft?: string;
          workers?: string;
          replace?: boolean;
          json?: boolean;
          verbose?: boolean;
        },
      ) => done(await print(o, () => runCommand(files, o))),
    );
  root
    .command('prove')
    .description('read a pack back as the target would and compare it with the source')
    .argument('<folder>', 'the folder of a pack')
    .option('--reference <file...>', 'the source that the pack is held against: all its files')
    .option('--typed <id=value>', 'a value typed otherwise than the card says (repeatable)', collect, [])
    .option('--ignore-checksums', 'compare even where a file has changed since it was written')
    .option('--json', 'print one JSON document')
    .option('--verbose', 'print the cause of a failure')
    .action(
      async (
        folder: string,
        o: { reference?: string[]; typed?: string[]; ignoreChecksums?: boolean; json?: boolean; verbose?: boolean },
      ) => done(await print(o, () => proveCommand(folder, o))),
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
      say(process.stderr, errorText(asLevelGridError(reason, 'running the command').toRecord()));
      return 1;
    }
    return reason.exitCode === 0 ? 0 : 2;
  }
  return code;
}

listenForSignals();
process.exitCode = await main();
