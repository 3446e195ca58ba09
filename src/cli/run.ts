import { readFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import path from 'node:path';
import { formatBytes, LevelGridError, type ByteSource } from '../core/base';
import type { PlanDocument } from '../core/plan';
import { draftRecipe } from '../core/edits';
import type { Recipe } from '../core/recipe';
import type { Proof } from '../core/proof';
import { PACK_DOCUMENTS, PiecePool, PROOF_PAGES, readPack, run, zipOf } from '../core/run';
import { tileBaseName } from '../core/tiles';
import { DiskFolder, fileSource, nodePieceThread, nodeSha256 } from '../io/node';
import { onExit } from './signals';
import { fromCaller } from './files';
import { checkLines, withProgress, type CommandResult } from './output';
import { proofText } from './proof-text';
import { namingItsRecipe, recipeAndSource } from './plan';

export async function runCommand(
  files: readonly string[],
  options: {
    recipe: string;
    target?: string;
    out: string;
    zip?: boolean;
    draft?: string;
    workers?: string;
    replace?: boolean;
    prove?: boolean;
  },
): Promise<CommandResult> {
  const { recipe: full, source } = await recipeAndSource(options, files);
  const recipe = options.draft === undefined ? full : draftRecipe(full, draftSide(options.draft));
  const directory = fromCaller(options.out);
  const folder = await DiskFolder.open(directory, {
    sources: [...files, options.recipe].map(fromCaller),
    replace: options.replace ?? false,
    ours: (where) => packOf(recipe, where),
  });
  const forget = onExit(() => folder.abortNow());
  const pool = new PiecePool(
    nodePieceThread(path.join(import.meta.dirname, 'piece-worker.mjs')),
    workerCount(options.workers),
  );
  const pieces = { encode: pool.encode, inFlight: pool.size + 2 };
  const zipName = `${tileBaseName(recipe, source.name.replace(/\.[^.]*$/, ''))}.zip`;
  const names = (document: PlanDocument): string[] => [...document.files.map((f) => f.name), ...PACK_DOCUMENTS];
  const found: { proof: Proof | null } = { proof: null };
  try {
    const document = await namingItsRecipe(options.recipe, () =>
      withProgress('Writing', (job) =>
        run(
          recipe,
          source,
          folder,
          {
            hasher: nodeSha256,
            pieces,
            extra: options.zip ? [zipName] : [],
            writeExtra: async (done) => {
              if (options.prove) found.proof = await proveUnfinished(folder, names(done), source, done.source.file);
              if (options.zip) await writeZip(folder, names(done), zipName);
            },
          },
          job,
        ),
      ),
    );
    const { proof } = found;
    const written = [...names(document), ...(options.zip ? [zipName] : [])];
    const sources = await Promise.all(written.map((n) => fileSource(path.join(directory, n))));
    return {
      json: { ...document, written, ...(proof ? { proof } : {}) },
      text: [
        ...sources.map((s) => `${s.name}  ${formatBytes(s.size)}`),
        '',
        checkLines(document.checks),
        ...(proof ? ['', proofText(proof)] : []),
      ].join('\n'),
      fine: document.checks.every((c) => c.state !== 'fault') && proof?.holds !== false,
    };
  } finally {
    await pool.end();
    await folder.abort();
    forget();
  }
}

/** Names that a pack of this very recipe left in a folder; none where there is another pack or none. */
async function packOf(recipe: Recipe, directory: string): Promise<ReadonlySet<string>> {
  try {
    const [recipeText, pageText] = await Promise.all(
      ['recipe.json', 'import.json'].map((name) => readFile(path.join(directory, name), 'utf8')),
    );
    // packs of earlier versions are known too
    const { recipe: kept, document } = readPack(recipeText ?? '', pageText ?? '');
    if (!document || JSON.stringify(kept) !== JSON.stringify(recipe)) return new Set();
    const files = document.files.map((f) => f.name);
    return new Set([
      ...files,
      ...PACK_DOCUMENTS,
      `${tileBaseName(recipe, document.source.file.replace(/\.[^.]*$/, ''))}.zip`,
    ]);
  } catch {
    // no pack that could be known again
    return new Set();
  }
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

/**
 * Proves the pack before any of it is visible, and has its pages tell what was found: they are whole, or are not there.
 */
async function proveUnfinished(
  folder: DiskFolder,
  names: readonly string[],
  source: ByteSource,
  sourceName: string,
): Promise<Proof> {
  const { prove, proofLines } = await import('../core/proof');
  const { proof } = await withProgress('Proving', (job) =>
    prove(
      {
        file: async (name) => (names.includes(name) ? fileSource(folder.unfinished(name)) : null),
        reference: source,
        hasher: nodeSha256,
        others: names,
      },
      job,
    ),
  );
  const lines = proofLines(proof, sourceName);
  for (const [name, tell] of PROOF_PAGES) {
    const page = await readFile(folder.unfinished(name), 'utf8');
    await folder.rewrite(name, tell(page, lines));
  }
  return proof;
}

/** The zip is a file of the pack: it is made of the others before any of them is visible. */
async function writeZip(folder: DiskFolder, names: readonly string[], zip: string): Promise<void> {
  const sink = await folder.open(zip);
  const sources = await Promise.all(names.map((n) => fileSource(folder.unfinished(n))));
  const reader = zipOf(sources).getReader();
  for (;;) {
    const { done, value } = await reader.read();
    if (done) break;
    await sink.write(value);
  }
  await sink.close();
}
