import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { bringInCommand } from '../bring-in';

export function declare(root: Command, perform: Perform): void {
  const command = root
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
    .option('--recipe <file>', 'read it as this recipe says, and do its steps: what enters the fit, in true metres');
  printing(command).action(async (files: string[], o: Parameters<typeof bringInCommand>[1] & Printing) =>
    perform(o, async () => (await import('../bring-in')).bringInCommand(files, o)),
  );
}
