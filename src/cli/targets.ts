import { BUILT_IN_TARGETS, targetOf } from '../core/targets';
import { readTarget } from './files';
import { table, type CommandResult } from './output';

/** The targets that come with Level Grid, or all that one of them says of itself, to be copied and changed. */
export async function targets(options: { describe?: string }): Promise<CommandResult> {
  if (options.describe !== undefined) {
    const target = targetOf(await readTarget(options.describe));
    return { json: target, text: JSON.stringify(target, null, 2), fine: true };
  }
  return {
    json: BUILT_IN_TARGETS,
    text: table(
      ['Target', 'Name', 'What it is'],
      BUILT_IN_TARGETS.map((t) => [t.id, t.name, t.summary]),
    ),
    fine: true,
  };
}
