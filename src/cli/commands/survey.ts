import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { surveyCommand } from '../survey';

export function declare(root: Command, perform: Perform): void {
  const command = root
    .command('survey')
    .description('take ground of the made-up survey that ships with Level Grid: heights, their record, a plain map')
    .requiredOption('--ground <borders>', 'WEST,SOUTH,EAST,NORTH in degrees, within 80.2,-47.6,80.8,-47.1')
    .requiredOption('--out <folder>', 'where the files go')
    .option('--set <name>', 'coarse, fine or composite', 'composite')
    .option('--as <form>', 'png, raw, tiff or hgt', 'png')
    .option('--stretch <factor>', 'factor on heights, said in the record', '1');
  printing(command).action(async (o: Parameters<typeof surveyCommand>[0] & Printing) =>
    perform(o, async () => (await import('../survey')).surveyCommand(o)),
  );
}
