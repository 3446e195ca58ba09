import { availableParallelism } from 'node:os';
import path from 'node:path';
import { formatBytes, LevelGridError } from '../core/base';
import { draftRecipe, PiecePool, run, zipOf } from '../core/run';
import { fileNameOf } from '../core/tiles';
import { DiskFolder, fileSource, nodePieceThread, nodeSha256 } from '../io/node';
import { fromCaller } from './files';
import { checkLines, withProgress, type CommandResult } from './output';
import { recipeAndSource } from './plan';

export async function runCommand(
  files: readonly string[],
  options: { recipe: string; out: string; zip?: boolean; draft?: string; workers?: string },
): Promise<CommandResult> {
  const { recipe: full, source } = await recipeAndSource(options.recipe, files);
  const recipe = options.draft === undefined ? full : draftRecipe(full, draftSide(options.draft));
  const directory = fromCaller(options.out);
  const folder = await DiskFolder.open(directory);
  const pool = new PiecePool(
    nodePieceThread(path.join(import.meta.dirname, 'piece-worker.mjs')),
    workerCount(options.workers),
  );
  const pieces = { encode: pool.encode, inFlight: pool.size + 2 };
  const document = await withProgress('Writing', (job) =>
    run(recipe, source, folder, { hasher: nodeSha256, pieces }, job),
  ).finally(() => pool.end());
  const names = [...document.files.map((f) => f.name), 'import.json', 'import.md', 'recipe.json'];
  if (options.zip) names.push(await writeZip(folder, directory, names, fileNameOf(document.name)));
  const sources = await Promise.all(names.map((n) => fileSource(path.join(directory, n))));
  return {
    json: { ...document, written: names },
    text: [...sources.map((s) => `${s.name}  ${formatBytes(s.size)}`), '', checkLines(document.checks)].join('\n'),
    fine: document.checks.every((c) => c.state !== 'fault'),
  };
}

function workerCount(text: string | undefined): number {
  const most = 8;
  if (text === undefined) return Math.min(most, availableParallelism());
  const count = Number(text);
  if (Number.isInteger(count) && count >= 1 && count <= most) return count;
  throw new LevelGridError('usage', {
    found: `"${text}" workers`,
    expected: `a whole number from 1 to ${most}`,
    remedy: 'Leave it out to use every core.',
  });
}

function draftSide(text: string): number {
  const side = Number(text);
  if (Number.isInteger(side) && side >= 2) return side;
  throw new LevelGridError('usage', {
    found: `"${text}" vertices for a draft`,
    expected: 'a rung of the ladder',
    remedy: 'Give the vertices per side, such as 505.',
  });
}

async function writeZip(
  folder: DiskFolder,
  directory: string,
  names: readonly string[],
  base: string,
): Promise<string> {
  const name = `${base}.zip`;
  try {
    const sink = await folder.open(name);
    const sources = await Promise.all(names.map((n) => fileSource(path.join(directory, n))));
    const reader = zipOf(sources).getReader();
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      await sink.write(value);
    }
    await sink.close();
    await folder.commit();
  } catch (reason) {
    await folder.abort();
    throw reason;
  }
  return name;
}
