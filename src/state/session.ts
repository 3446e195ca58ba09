import { create } from 'zustand';
import type { ErrorRecord } from '../core/base';
import type { RawLayout } from '../core/formats';
import type { ChainStep, Plan, SourceFacts } from '../core/plan';
import type { Proof, ProofMaps } from '../core/proof';
import type { GroundStatistics } from '../core/raster';
import type { View } from '../core/relief';
import type { MapPoint } from '../core/view';
import type { PackResult } from '../workers/protocol';
import type { Listing } from './storage';

/** A piece of work that is going on. */
export interface JobState {
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
  /** The recipe it was made with, as text: another one makes the pack old. */
  readonly key: string;
  readonly draft: boolean;
}

export interface Session {
  readonly ready: boolean;
  readonly projectId: string | null;
  readonly projectName: string;
  readonly projects: Listing;
  readonly source: Blob | null;
  /** The name under which the workers hold the source. */
  readonly sourceKey: string | null;
  /** Rows of the source that have been read while it is being brought in; null when all are there. */
  readonly arrived: number | null;
  /** From this overview level on all of the source can be drawn while it is read; null where none is known. */
  readonly wholeFrom: number | null;
  readonly facts: SourceFacts | null;
  readonly layout: RawLayout | null;
  /** The source can be drawn. */
  readonly held: boolean;
  readonly ground: GroundStatistics | null;
  readonly plan: Plan | null;
  readonly planError: ErrorRecord | null;
  readonly pack: Pack | null;
  readonly proof: { readonly proof: Proof; readonly maps: ProofMaps | null; readonly key: string } | null;
  /** What the artist typed into the target where it differs from the card. */
  readonly typed: Readonly<Record<string, number>>;
  readonly job: JobState | null;
  readonly error: ErrorRecord | null;
  readonly step: ChainStep;
  readonly view: View | 'difference';
  readonly errorKind: 'encoding' | 'ground';
  readonly overlays: { readonly tiles: boolean; readonly components: boolean; readonly patches: boolean };
  readonly compare: boolean;
  readonly section: SectionLine | null;
  /** 0..1 along the section line, under the pointer. */
  readonly sectionAt: number | null;
  /** A spot that the map should go to; counts up so that the same spot can be asked for again. */
  readonly goTo: { readonly spot: string; readonly count: number } | null;
  readonly theme: 'film' | 'night';
}

export const useSession = create<Session>()(() => ({
  ready: false,
  projectId: null,
  projectName: '',
  projects: [],
  source: null,
  sourceKey: null,
  arrived: null,
  wholeFrom: null,
  facts: null,
  layout: null,
  held: false,
  ground: null,
  plan: null,
  planError: null,
  pack: null,
  proof: null,
  typed: {},
  job: null,
  error: null,
  step: 'fit',
  view: 'relief',
  errorKind: 'encoding',
  overlays: { tiles: true, components: true, patches: false },
  compare: false,
  section: null,
  sectionAt: null,
  goTo: null,
  theme: 'film',
}));

export const patchSession = (change: Partial<Session>): void => {
  useSession.setState(change);
};

/** Goes to a check spot on the map. */
export function showSpot(spot: string): void {
  useSession.setState((s) => ({
    goTo: { spot, count: (s.goTo?.count ?? 0) + 1 },
    view: s.view === 'difference' ? 'relief' : s.view,
  }));
}
