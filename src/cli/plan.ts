import path from 'node:path';
import {
  asLevelGridError,
  formatExtent,
  formatLength,
  formatNumber,
  formatShort,
  namingRecipe,
  type ByteSource,
} from '../core/base';
import { withFiles, withMesh } from '../core/edits';
import { meshKindOf } from '../core/formats';
import { stepWords } from '../core/operations';
import { expectedSource, plan, type PlanDocument } from '../core/plan';
import { sourceReading, type Recipe } from '../core/recipe';
import { measuredPlan, openReading, typedText } from '../core/run';
import { heightSources, readRecipe } from './files';
import { checkLines, table, withProgress, type CommandResult } from './output';

/** The recipe and the source of a call: one file, or several that make one. */
export async function recipeAndSource(
  { recipe: recipeFile, target }: { readonly recipe: string; readonly target?: string },
  files: readonly string[],
): Promise<{ recipe: Recipe; source: ByteSource }> {
  const recipe = await readRecipe(recipeFile, target);
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

/** Work of which an error about the recipe names the file of that. */
export async function namingItsRecipe<T>(file: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (reason) {
    throw namingRecipe(asLevelGridError(reason, 'running the command'), path.basename(file));
  }
}

export async function planCommand(
  files: readonly string[],
  options: { recipe: string; target?: string },
): Promise<CommandResult> {
  if (files.length === 0) return planBefore(options);
  const { recipe, source } = await recipeAndSource(options, files);
  const { document, refusals } = await namingItsRecipe(options.recipe, () =>
    withProgress('Measuring', async (job) => measuredPlan(recipe, source, job)),
  );
  // voids are told among the checks, beside everything else
  const refusal = refusals.find((r) => r.code !== 'voids');
  if (refusal) throw namingRecipe(refusal, path.basename(options.recipe));
  return { json: document, text: planText(document), fine: document.checks.every((c) => c.state !== 'fault') };
}

/** Sizes, values and tiles of a source that does not exist yet. */
async function planBefore(options: { recipe: string; target?: string }): Promise<CommandResult> {
  const recipe = await readRecipe(options.recipe, options.target);
  const { document, refusals } = await namingItsRecipe(options.recipe, () =>
    Promise.resolve(plan(recipe, expectedSource(recipe), null)),
  );
  if (refusals[0]) throw namingRecipe(refusals[0], path.basename(options.recipe));
  return {
    json: document,
    text: `There is no source yet: what rests on its heights is provisional.\n\n${planText(document)}`,
    fine: document.checks.every((c) => c.state !== 'fault'),
  };
}

/** What is done to the ground before the fit, and what that changes. */
function stepLines({ recipe, steps }: PlanDocument): string[] {
  return recipe.steps.map((step, i) => {
    const done = steps[i];
    const words = `Step ${i + 1}: ${stepWords(step)}`;
    if (!done || 'off' in done) return `${words} (switched off)`;
    if (done.samples === null) return words;
    return `${words}; ${formatNumber(done.samples, 0)} samples change${done.largest ? `, ${formatLength(done.largest)} at most` : ''}`;
  });
}

export function planText(document: PlanDocument): string {
  const { fit, height, card, files } = document;
  return [
    `${document.name}${document.draft === null ? '' : `, a draft on ${document.draft} vertices,`} for ${document.target}`,
    `${fit.width} × ${fit.height} vertices, ${formatShort(fit.spacing.x, 6)} m apart; ${formatExtent(fit.extent.x, fit.extent.y)}`,
    `${formatNumber(height.low, 3)} m to ${formatNumber(height.high, 3)} m, ${formatLength(height.effectiveStep)} a step${height.effectiveStep > height.step * 1.001 ? ' (the source’s own)' : ''}`,
    ...(height.exaggeration === 1 ? [] : [`heights multiplied by ${formatShort(height.exaggeration, 6)}`]),
    ...(document.layoutText ? [document.layoutText] : []),
    ...stepLines(document),
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
