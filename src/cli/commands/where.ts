import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { whereCommand } from '../where';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('where')
    .description('say which of several files, also in archives, holds a place')
    .argument('<file...>', 'the files')
    .requiredOption('--place <east,north>', 'in the units of their coordinates; of degrees, longitude and latitude');
  printing(command).action(async (files: string[], o: Parameters<typeof whereCommand>[1] & Printing) =>
    perform(o, async () => (await import('../where')).whereCommand(files, o)),
  );
}
