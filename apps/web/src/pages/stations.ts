/** Where the stations are fetched from, each when it is first wanted; those that are not shown follow when nothing else is under way. */
import { useEffect, useState } from 'react';
import type { StationParts, StationSlug } from '../frame/stations.ts';

const LOADERS: Record<StationSlug, () => Promise<{ station: StationParts }>> = {
  draw: () => import('../stations/draw/index.tsx'),
  trace: () => import('../stations/trace/index.tsx'),
  build: () => import('../stations/build/index.tsx'),
  layup: () => import('../stations/layup/index.tsx'),
  send: () => import('../stations/send/index.tsx'),
};

export const isStation = (slug: string | undefined): slug is StationSlug => slug !== undefined && Object.hasOwn(LOADERS, slug);

export interface Loaded {
  readonly parts?: StationParts;
  /** It could not be fetched. */
  readonly failed?: boolean;
}

/** After the shown station is there, ms: the drawing comes first. */
const OTHERS_AFTER_MS = 1500;
const NOT_YET: Loaded = {};

/** The parts of a station. @param attempt another number asks again for what failed */
export function useStation(slug: StationSlug | undefined, attempt: number): Loaded {
  const [loaded, setLoaded] = useState<{ slug: StationSlug; is: Loaded }>();
  useEffect(() => {
    if (!slug) return undefined;
    let current = true;
    let others: ReturnType<typeof setTimeout> | undefined;
    LOADERS[slug]().then(
      ({ station }) => {
        if (!current) return;
        setLoaded({ slug, is: { parts: station } });
        // one that does not come now is asked for again when it is wanted
        others = setTimeout(() => Object.values(LOADERS).forEach((load) => void load().catch(() => undefined)), OTHERS_AFTER_MS);
      },
      () => current && setLoaded({ slug, is: { failed: true } }),
    );
    return () => {
      current = false;
      clearTimeout(others);
    };
  }, [slug, attempt]);
  return loaded && loaded.slug === slug ? loaded.is : NOT_YET;
}
