import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { layouts } from '../layouts';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('layouts')
    .description('list the sizes a target accepts against a source')
    .requiredOption('--target <id or file>', 'the target, by its id, or a file that describes one')
    .option('--samples <n>', 'samples per side of the source')
    .option('--spacing <metres>', 'metres from sample to sample of the source')
    .option('--tiles <across x down>', 'tiles across and down, like 4x3');
  printing(command).action(async (o: Parameters<typeof layouts>[0] & Printing) =>
    perform(o, async () => (await import('../layouts')).layouts(o)),
  );
}
