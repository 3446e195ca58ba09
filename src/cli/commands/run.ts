import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { runCommand } from '../run';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('run')
    .description('write the pack: height files, import page, recipe')
    .argument('<file...>', 'the source')
    .requiredOption('--recipe <file>', 'the recipe (JSON)')
    .option('--target <id or file>', 'another target: by its id, or a file that describes one')
    .requiredOption('--out <folder>', 'where the files go')
    .option('--zip', 'add one zip of the same files')
    .option('--prove', 'prove the pack before it is put in place; its pages tell what was found')
    .option('--replace', 'write over older files that are not of this pack')
    .option('--workers <n>', 'threads that encode pictures (default: as many as cores, at most 8)')
    .option('--draft <vertices>', 'a draft pack at this rung (vertices per side of a tile)');
  printing(command).action(async (files: string[], o: Parameters<typeof runCommand>[1] & Printing) =>
    perform(o, async () => (await import('../run')).runCommand(files, o)),
  );
}
