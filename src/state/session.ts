import { create } from 'zustand';
import type { EditCall, ErrorRecord } from '../core/base';
import type { Keeps } from '../core/edits';
import type { Arrangement } from '../core/mosaic';
import type { CardRow, ChainStep, Plan, PlanDocument, SourceFacts } from '../core/plan';
import type { Proof, ProofMaps } from '../core/proof';
import type { GroundStatistics, SourceExtremes } from '../core/raster';
import type { Recipe } from '../core/recipe';
import type { View } from '../core/relief';
import type { MapPoint } from '../core/view';
import type { PackResult } from '../workers/protocol';
import type { KeptSource, Listing, Orphan } from './storage';

/** Where a source came from: what the file was when it was read, and the way back to it where the browser gives one. */
export interface Origin {
  readonly name: string;
  readonly size: number;
  /** Milliseconds since the epoch. */
  readonly modified: number;
  readonly handle: FileSystemFileHandle | null;
}

/** A sample of the source whose elevation is known. */
export interface SourceSpot {
  readonly column: number;
  readonly row: number;
  readonly stored: number;
  /** What it stood for when it was chosen, in true metres. */
  readonly shown: number;
  /** What it is in truth, in true metres; null until that is typed. */
  readonly elevation: number | null;
}

/** A piece of work that is going on. */
export interface JobState {
  /** Which one it is: the result of another belongs to nobody any more. */
  readonly id: number;
  readonly label: string;
  /** 0..1. */
  readonly progress: number;
  /** Milliseconds since the epoch. */
  readonly started: number;
  readonly cancel: () => void;
}

export interface SectionLine {
  readonly a: MapPoint;
  readonly b: MapPoint;
}

export interface Pack extends PackResult {
  /** The recipe that it was made with and the content of its source, as text: others make the pack old. */
  readonly key: string;
}

/** A draft pack, beside the pack: it says nothing of it. */
export interface Draft extends Pack {
  readonly proof: Proof;
  /** Vertices per side of a tile. */
  readonly vertices: number;
}

/** The source was replaced, or its file read again with other bytes. */
export interface Replacement {
  readonly before: { readonly width: number; readonly height: number; readonly spacing: number };
  readonly after: { readonly width: number; readonly height: number };
  readonly keeps: Keeps;
  /** The card as it stood before, and the range that its codes stood for, in true metres. */
  readonly card: readonly CardRow[];
  readonly range: { readonly low: number; readonly high: number };
  /** Choices that do not go with the new source, in words. */
  readonly dropped: readonly string[];
  /** Its codes reach from the lowest to the highest that there are: whether they stand for the same is asked. */
  readonly filled: boolean;
  /** What each way to go on costs; null until that has been measured. */
  readonly ways: readonly Way[] | null;
}

/** A way to go on with heights that have changed. */
export interface Way {
  readonly id: 'hold' | 'follow' | 'codes';
  /** The edit that takes it. */
  readonly edit: EditCall;
  /** Rows of the card that would have to be typed again. */
  readonly changed: readonly string[];
  /** Samples beyond the codes. */
  readonly clipped: number;
}

/** What was dropped and has no source here yet: choices, and where it is a pack, its files. The open project stays. */
export interface Dropped {
  /** As it was dropped. */
  readonly file: string;
  readonly recipe: Recipe;
  /** What the page of the pack says; null where only a recipe came. */
  readonly document: PlanDocument | null;
  /** The files of the pack; null where only a document came. */
  readonly files: ReadonlyMap<string, Blob> | null;
  /** Values typed otherwise than the page says. */
  readonly typed: Readonly<Record<string, number | string>>;
  /** The files held against their own page. */
  readonly proof: Proof | null;
}

/** Several files, and what they would make. */
export interface Proposal {
  /** What the whole is called. */
  readonly name: string;
  /** Names the board on which they are laid out. */
  readonly board: string;
  /** All of them as one. */
  readonly bundle: File;
  readonly files: readonly File[];
  /** How they make one terrain; null where they don't say it, with the reason. */
  readonly arrangement: Arrangement | null;
  readonly refused: ErrorRecord | null;
}

/** Parts of the page that a narrow window shows one at a time, over the map. */
export type Pane = 'bench' | 'section' | 'card';

/** What enters the fit after all steps, as the workers hold it. */
export interface Stage {
  readonly key: string;
  readonly extremes: SourceExtremes | null;
}

/** Everything that belongs to the open project: it comes and goes as one. */
export interface ProjectSession {
  readonly projectId: string | null;
  readonly source: Blob | null;
  /** Where the source is kept; null where there was no room for it: the project is then not kept either. */
  readonly keptSource: KeptSource | null;
  /** Why the open project is not kept as it is now; null where it is, or will be in a moment. */
  readonly unkept: ErrorRecord | null;
  /** The name under which the workers hold the source. */
  readonly sourceKey: string | null;
  /** Rows of the source that have been read while it is being brought in; null when all are there. */
  readonly arrived: number | null;
  /** From this overview level on all of the source can be drawn while it is read; null where none is known. */
  readonly wholeFrom: number | null;
  readonly facts: SourceFacts | null;
  /** Where the source came from; null for the demo. */
  readonly origin: Origin | null;
  /** Its file is another one on disk by now. */
  readonly changedOnDisk: boolean;
  /** Where the lowest and highest sample of the source lie; null until all are read. */
  readonly extremes: SourceExtremes | null;
  /** What enters the fit, where steps are on and it has been made. */
  readonly stage: Stage | null;
  /** The source can be drawn. */
  readonly held: boolean;
  readonly ground: GroundStatistics | null;
  readonly plan: Plan | null;
  readonly planError: ErrorRecord | null;
  readonly pack: Pack | null;
  readonly draft: Draft | null;
  /** What a replaced source changed, until it has been looked at. */
  readonly replacement: Replacement | null;
  readonly proof: { readonly proof: Proof; readonly maps: ProofMaps | null; readonly key: string } | null;
  readonly step: ChainStep;
  /** The next click on the map chooses a known spot. */
  readonly picking: boolean;
  readonly knownSpots: readonly SourceSpot[];
  /** A source that was just brought in, whose open questions are asked one after the other. */
  readonly ask: string | null;
  readonly view: View | 'difference';
  /** In samples of the metric ground, before turns: it stays on its ground. */
  readonly section: SectionLine | null;
  /** 0..1 along the section line, under the pointer. */
  readonly sectionAt: number | null;
  /** Where the map should go: a check spot or a vertex. Counts up so that the same can be asked for again. */
  readonly goTo: {
    readonly spot: string | null;
    readonly vertex: MapPoint | null;
    readonly count: number;
  } | null;
}

/** What belongs to the page, whatever is open. */
export interface PageSession {
  readonly ready: boolean;
  readonly projects: Listing;
  /** Another tab edits: this one shows what it does. */
  readonly following: boolean;
  readonly dropped: Dropped | null;
  /** Files that came together and make one terrain: whether they shall is asked. */
  readonly proposal: Proposal | null;
  /** The survey desk is open. */
  readonly survey: boolean;
  /** A project that was asked for and has lost its source; `other`: a file that was given to it and is another one. */
  readonly orphan: { readonly project: Orphan; readonly other: File | null } | null;
  /** A file that was refused and could be read as a headerless one. */
  readonly refusedFile: File | null;
  readonly job: JobState | null;
  readonly error: ErrorRecord | null;
  /** Something that happened and needs no answer, in one sentence. */
  readonly notice: string | null;
  /** In a narrow window: what lies over the map. */
  readonly pane: Pane | null;
  readonly errorKind: 'encoding' | 'ground';
  readonly overlays: { readonly tiles: boolean; readonly components: boolean; readonly patches: boolean };
  readonly compare: boolean;
  readonly theme: 'film' | 'night';
}

export type Session = ProjectSession & PageSession;

/** Where no project is open, and what each begins with. */
export const NO_PROJECT: ProjectSession = {
  projectId: null,
  source: null,
  keptSource: null,
  unkept: null,
  sourceKey: null,
  arrived: null,
  wholeFrom: null,
  facts: null,
  origin: null,
  changedOnDisk: false,
  extremes: null,
  stage: null,
  held: false,
  ground: null,
  plan: null,
  planError: null,
  pack: null,
  draft: null,
  replacement: null,
  proof: null,
  step: 'fit',
  picking: false,
  knownSpots: [],
  ask: null,
  view: 'relief',
  section: null,
  sectionAt: null,
  goTo: null,
};

export const useSession = create<Session>()(() => ({
  ...NO_PROJECT,
  ready: false,
  projects: [],
  following: false,
  dropped: null,
  proposal: null,
  survey: false,
  orphan: null,
  refusedFile: null,
  job: null,
  error: null,
  notice: null,
  pane: null,
  errorKind: 'encoding',
  overlays: { tiles: true, components: true, patches: false },
  compare: false,
  theme: 'film',
}));

/** All of the open project, to come back to: whatever belongs to one comes back, nothing is named. */
export function keepProject(): ProjectSession {
  const session = useSession.getState();
  const keys = Object.keys(NO_PROJECT) as (keyof ProjectSession)[];
  return Object.fromEntries(keys.map((key) => [key, session[key]])) as unknown as ProjectSession;
}

export const patchSession = (change: Partial<Session>): void => {
  useSession.setState(change);
};

/** Leaves what was dropped, whatever was typed for it meanwhile, unless something else took its place. */
export const stopLookingAt = ({ recipe }: Dropped): void =>
  useSession.setState((s) => (s.dropped?.recipe === recipe ? { dropped: null } : {}));

/** Goes to a step; in a narrow window its choices come over the map. */
export const goToStep = (step: ChainStep): void => patchSession({ step, pane: 'bench' });

/** The next click on the map chooses a known spot; in a narrow window the map comes out. */
export const pickSpot = (): void => patchSession({ picking: true, pane: null });

/** Another spot at this place of the list, or none. */
export function setKnownSpot(index: number, spot: SourceSpot | null): void {
  useSession.setState((s) => ({
    picking: false,
    pane: 'bench',
    knownSpots: [...s.knownSpots.slice(0, index), ...(spot ? [spot] : []), ...s.knownSpots.slice(index + 1)],
  }));
}

/** Goes to a check spot on the map. */
export function showSpot(spot: string): void {
  useSession.setState((s) => ({
    pane: null,
    goTo: { spot, vertex: null, count: (s.goTo?.count ?? 0) + 1 },
    view: s.view === 'difference' ? 'relief' : s.view,
  }));
}

/** Goes to where the difference of this kind is largest. */
export function showWorst(kind: Session['errorKind']): void {
  useSession.setState((s) => {
    const worst = s.proof?.maps?.worst[kind];
    if (!worst) return {};
    const { x, y } = worst;
    return {
      pane: null,
      view: 'difference',
      errorKind: kind,
      goTo: { spot: null, vertex: { x, y }, count: (s.goTo?.count ?? 0) + 1 },
    };
  });
}
