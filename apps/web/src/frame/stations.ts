/** The five stations in their order, and what each brings to the frame. */
import type { ComponentType } from 'react';

export const STATIONS = [
  { slug: 'draw', name: 'Draw' },
  { slug: 'trace', name: 'Trace' },
  { slug: 'build', name: 'Build' },
  { slug: 'layup', name: 'Lay up' },
  { slug: 'send', name: 'Send' },
] as const;

export type StationSlug = (typeof STATIONS)[number]['slug'];

/** A station as its folder exports it, under `station`. */
export interface StationParts {
  readonly View: ComponentType;
  /** Shows everything (key F). */
  readonly fit?: () => void;
  /** Takes the keys of its own. @returns was it one of them? */
  readonly onKey?: (event: KeyboardEvent) => boolean;
}
