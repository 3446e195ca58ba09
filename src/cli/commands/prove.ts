import type { Command } from 'commander';
import { collect, printing, type Perform, type Printing } from '../command';
import type { proveCommand } from '../prove';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('prove')
    .description('read a pack back as the target would and compare it with the source')
    .argument('<folder>', 'the folder of a pack')
    .option('--reference <file...>', 'the source that the pack is held against: all its files')
    .option('--typed <id=value>', 'a value typed otherwise than the card says (repeatable)', collect, [])
    .option('--ignore-checksums', 'compare even where a file has changed since it was written');
  printing(command).action(async (folder: string, o: Parameters<typeof proveCommand>[1] & Printing) =>
    perform(o, async () => (await import('../prove')).proveCommand(folder, o)),
  );
}
