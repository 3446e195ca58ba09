import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('compare')
    .description('hold data sets of the same ground against each other: voids, real detail, differences')
    .argument('<file...>', 'the data sets, or an archive that holds several');
  printing(command).action(async (files: string[], o: Printing) =>
    perform(o, async () => (await import('../compare')).compareCommand(files)),
  );
}
