/** How one side of a component grid is built: components of `patches` × `patches` patches of `quads` quads. */
export interface ComponentLayout {
  /** Quads along the side of one patch. */
  readonly quads: number;
  /** Patches along the side of one component. */
  readonly patches: number;
  /** Components along the side of the terrain. */
  readonly components: number;
}

export interface ComponentRules {
  /** Quads a patch may have, ascending. */
  readonly quads: readonly number[];
  readonly patches: readonly number[];
  readonly maxComponents: number;
}

/** Vertices along a side: C·P·Q + 1. */
export function verticesOf({ quads, patches, components }: ComponentLayout): number {
  return components * patches * quads + 1;
}

/** Every way to lay out `vertices` along a side: larger patches first, one patch per component before two. */
export function layoutsFor(vertices: number, rules: ComponentRules): ComponentLayout[] {
  const out: ComponentLayout[] = [];
  for (const quads of [...rules.quads].reverse()) {
    for (const patches of rules.patches) {
      const components = (vertices - 1) / (quads * patches);
      if (Number.isInteger(components) && components >= 1 && components <= rules.maxComponents) {
        out.push({ quads, patches, components });
      }
    }
  }
  return out;
}

/** The layout with the fewest components, of equals the first: the one to take unless something else is asked for. */
export function fewestComponents<L extends ComponentLayout | RectangleLayout>(layouts: readonly L[]): L | undefined {
  const count = (l: L): number => ('components' in l ? l.components ** 2 : l.componentsX * l.componentsY);
  return layouts.reduce<L | undefined>((best, l) => (best && count(best) <= count(l) ? best : l), undefined);
}

/** All vertex counts that the rules allow, ascending, each once. */
export function ladderOf(rules: ComponentRules): number[] {
  const sizes = new Set<number>();
  for (const quads of rules.quads)
    for (const patches of rules.patches)
      for (let components = 1; components <= rules.maxComponents; components++)
        sizes.add(verticesOf({ quads, patches, components }));
  return [...sizes].sort((a, b) => a - b);
}

export interface RectangleLayout {
  readonly quads: number;
  readonly patches: number;
  readonly componentsX: number;
  readonly componentsY: number;
}

/** Layouts of a terrain that may be longer one way: both sides built from the same patches. */
export function rectangleLayouts(width: number, height: number, rules: ComponentRules): RectangleLayout[] {
  const down = layoutsFor(height, rules);
  return layoutsFor(width, rules).flatMap(({ quads, patches, components }) => {
    const match = down.find((d) => d.quads === quads && d.patches === patches);
    return match ? [{ quads, patches, componentsX: components, componentsY: match.components }] : [];
  });
}

/** Samples of the power-of-two height textures that components keep: (C·P·(Q+1))² for a square. */
export function textureSamples({ quads, patches, componentsX, componentsY }: RectangleLayout): number {
  return componentsX * patches * (quads + 1) * componentsY * patches * (quads + 1);
}
