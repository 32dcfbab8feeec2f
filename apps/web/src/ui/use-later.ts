/** What a page does not need at first and will want soon follows by itself, so that it is there when it is asked for. */
import { useEffect } from 'react';

/** After the page is shown, ms. */
const LATER_MS = 1000;

/** @param load fetches it; what does not come now is fetched again when it is wanted */
export function useLater(load: () => Promise<unknown>): void {
  useEffect(() => {
    const waiting = setTimeout(() => void load().catch(() => undefined), LATER_MS);
    return () => clearTimeout(waiting);
  }, [load]);
}
