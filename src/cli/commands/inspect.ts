import type { Command } from 'commander';
import { collect, printing, type Perform, type Printing } from '../command';
import type { inspect } from '../inspect';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('inspect')
    .description('say what height files really hold')
    .argument('<file...>', 'height files, or zips of them')
    .option('--raw <layout>', 'layout of headerless files: WIDTH,HEIGHT,TYPE,ORDER[,SKIP]')
    .option('--up <axis>', 'of a mesh: the axis that is up, y or z')
    .option('--header', 'read the header only: no statistics')
    .option('--at <row,column>', 'the sample there, in the units of the file (repeatable)', collect, []);
  printing(command).action(async (files: string[], o: Parameters<typeof inspect>[1] & Printing) =>
    perform(o, async () => (await import('../inspect')).inspect(files, o)),
  );
}
