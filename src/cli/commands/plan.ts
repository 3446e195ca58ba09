import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { planCommand } from '../plan';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('plan')
    .description('work out every size, value, file and check, without writing')
    .argument('[file...]', 'the source; left out, the recipe says its size (source.size)')
    .requiredOption('--recipe <file>', 'the recipe (JSON)')
    .option('--target <id or file>', 'another target: by its id, or a file that describes one');
  printing(command).action(async (files: string[], o: Parameters<typeof planCommand>[1] & Printing) =>
    perform(o, async () => (await import('../plan')).planCommand(files, o)),
  );
}
