import { create } from 'zustand';
import type { MapPoint } from '@/core/view';

/** The place of the ground under the pointer. Apart from the map, which is not drawn anew when the pointer moves. */
export const usePointer = create<{ readonly at: MapPoint | null }>()(() => ({ at: null }));

export const pointAt = (at: MapPoint | null): void => usePointer.setState({ at });
