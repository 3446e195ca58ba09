import path from 'node:path';
import { formatExtent, formatLength, formatNumber, formatShort, type ByteSource } from '../core/base';
import { withFiles, withMesh } from '../core/edits';
import { meshKindOf } from '../core/formats';
import type { PlanDocument } from '../core/plan';
import { parseRecipeText, sourceReading, type Recipe } from '../core/recipe';
import { countSource, measuredPlan, openReading, typedText } from '../core/run';
import { fromCaller, heightSources, readText } from './files';
import { checkLines, table, withProgress, type CommandResult } from './output';

/** The recipe and the source of a call: one file, or several that make one. */
export async function recipeAndSource(
  recipeFile: string,
  files: readonly string[],
): Promise<{ recipe: Recipe; source: ByteSource }> {
  const recipe = parseRecipeText(await readText(fromCaller(recipeFile)), path.basename(recipeFile));
  const source = await heightSources(files);
  const [only] = files.length === 1 ? (source.parts ?? [source]) : [];
  if (only && !recipe.source.mesh && (await meshKindOf(only))) {
    // which of its axes is up becomes a part of the recipe
    const { info } = await withProgress('Looking at the mesh', (job) => openReading(source, {}, job));
    return {
      recipe: info.mesh ? withMesh(recipe, { ...info.mesh.options, spacing: recipe.source.spacing }) : recipe,
      source,
    };
  }
  if (files.length < 2 || recipe.source.files) return { recipe, source };
  // where nobody has said how the files lie, what is found out becomes a part of the recipe
  const { arrangement } = await withProgress('Putting together', (job) =>
    openReading(source, sourceReading(recipe), job),
  );
  if (!arrangement) return { recipe, source };
  return { recipe: withFiles(recipe, arrangement.parts), source };
}

export async function planCommand(files: readonly string[], options: { recipe: string }): Promise<CommandResult> {
  const { recipe, source } = await recipeAndSource(options.recipe, files);
  const { document, refusals } = await withProgress('Measuring', async (job) =>
    measuredPlan(recipe, await countSource(source, sourceReading(recipe), job), job),
  );
  // voids are told among the checks, beside everything else
  const refusal = refusals.find((r) => r.code !== 'voids');
  if (refusal) throw refusal;
  return { json: document, text: planText(document), fine: document.checks.every((c) => c.state !== 'fault') };
}

export function planText(document: PlanDocument): string {
  const { fit, height, card, files } = document;
  return [
    `${document.name}${document.draft === null ? '' : `, a draft on ${document.draft} vertices,`} for ${document.target}`,
    `${fit.width} × ${fit.height} vertices, ${formatShort(fit.spacing.x, 6)} m apart; ${formatExtent(fit.extent.x, fit.extent.y)}`,
    `${formatNumber(height.low, 3)} m to ${formatNumber(height.high, 3)} m, ${formatLength(height.effectiveStep)} a step${height.effectiveStep > height.step * 1.001 ? ' (the source’s own)' : ''}`,
    ...(height.exaggeration === 1 ? [] : [`heights multiplied by ${formatShort(height.exaggeration, 6)}`]),
    ...(document.layoutText ? [document.layoutText] : []),
    '',
    table(
      ['Value', 'Type in', 'Unit', 'Formula'],
      card.map((r) => [r.label, `${typedText(r)}${r.assumed.length > 0 ? ' (placeholder)' : ''}`, r.unit, r.formula]),
    ),
    '',
    table(
      ['File', 'Vertices', 'Column', 'Row'],
      files.map((f) => [f.name, `${f.width} × ${f.height}`, String(f.column), String(f.row)]),
    ),
    '',
    checkLines(document.checks),
  ].join('\n');
}
