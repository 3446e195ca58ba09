import { readdir } from 'node:fs/promises';
import path from 'node:path';
import { LevelGridError, type ByteSource } from '../core/base';
import { prove } from '../core/proof';
import { nodeSha256, settleFolder } from '../io/node';
import { fromCaller, heightSource, heightSources } from './files';
import { withProgress, type CommandResult } from './output';
import { proofText } from './proof-text';

export async function proveCommand(
  folder: string,
  options: { reference?: readonly string[]; typed?: readonly string[]; ignoreChecksums?: boolean },
): Promise<CommandResult> {
  const directory = fromCaller(folder);
  // what a run left half exchanged is finished first
  await settleFolder(directory);
  const inFolder = async (name: string): Promise<ByteSource | null> =>
    // a name from a document is a name, never a way out of the folder
    name === path.basename(name) ? heightSource(path.join(directory, name)).catch(() => null) : null;
  const names = await readdir(directory).catch((cause: unknown) => {
    throw new LevelGridError('not-found', {
      file: path.basename(directory),
      found: 'no such folder',
      expected: 'the folder of a pack',
      remedy: 'Check the path.',
      cause,
    });
  });
  const typed = parseTyped(options.typed ?? []);
  const reference = options.reference === undefined ? null : await heightSources(options.reference);
  const { proof } = await withProgress('Proving', (job) =>
    prove(
      {
        file: inFolder,
        ...(reference ? { reference } : {}),
        typed,
        ignoreChecksums: options.ignoreChecksums ?? false,
        hasher: nodeSha256,
        others: names,
      },
      job,
    ),
  );
  return { json: proof, text: proofText(proof), fine: proof.holds };
}

function parseTyped(pairs: readonly string[]): Record<string, string> {
  const out = Object.create(null) as Record<string, string>;
  for (const pair of pairs) {
    const at = pair.indexOf('=');
    const id = pair.slice(0, Math.max(0, at));
    const text = pair.slice(at + 1);
    if (id === '' || text.trim() === '') {
      throw new LevelGridError('usage', {
        found: `"${pair}" as a typed value`,
        expected: 'ID=VALUE, with an id of the import card',
        remedy: 'Example: --typed heightScale=162.1118',
      });
    }
    out[id] = text;
  }
  return out;
}
