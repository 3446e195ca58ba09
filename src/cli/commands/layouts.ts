import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { layouts } from '../layouts';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('layouts')
    .description('list the sizes a target accepts against a source')
    .requiredOption('--samples <n>', 'samples per side of the source')
    .requiredOption('--target <id>', 'the target, by its id');
  printing(command).action(async (o: Parameters<typeof layouts>[0] & Printing) =>
    perform(o, async () => (await import('../layouts')).layouts(o)),
  );
}
