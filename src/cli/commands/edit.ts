import type { Command } from 'commander';
import { printing, type Perform, type Printing } from '../command';
import type { editCommand } from '../edit';

export async function declare(root: Command, perform: Perform): Promise<void> {
  // the list is only wanted where it is about edits
  const names = process.argv.includes('edit') ? (await import('../edit')).editNames() : 'its name';
  const command = root
    .command('edit')
    .description('change a recipe by an edit, as the page and its repairs do; no source is read')
    .argument('<recipe>', 'the recipe (JSON)')
    .argument('<name>', `the edit: ${names}`)
    .argument('[key=JSON...]', 'what the edit needs')
    .option('--out <file>', 'write the recipe there; left out: to standard output');
  printing(command).action(
    async (recipe: string, name: string, given: string[], o: Parameters<typeof editCommand>[3] & Printing) =>
      perform(o, async () => (await import('../edit')).editCommand(recipe, name, given, o)),
  );
}
