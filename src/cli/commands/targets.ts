import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { targets } from '../targets';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('targets')
    .description('list the targets, or print all that one says of itself, to be changed into one of your own')
    .option('--describe <id or file>', 'the target to print');
  printing(command).action(async (o: Parameters<typeof targets>[0] & Printing) =>
    perform(o, async () => (await import('../targets')).targets(o)),
  );
}
