import type { Command } from 'commander';
import type { CommandResult } from './output';

/** How the result of any command is printed. */
export interface Printing {
  readonly json?: boolean;
  readonly verbose?: boolean;
}

/** Does a command's work and prints what it gives. */
export type Perform = (options: Printing, work: () => CommandResult | Promise<CommandResult>) => Promise<void>;

/** The options that each command has. */
export const printing = (command: Command): Command =>
  command.option('--json', 'print one JSON document').option('--verbose', 'print the cause of a failure');

/** An option that may be given several times. */
export const collect = (value: string, before: string[]): string[] => [...before, value];
