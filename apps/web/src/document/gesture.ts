/** Changes of one thing in quick succession, as a slider or a colour field makes them, are one step of the history. */

/** A pause longer than this begins a new step. */
const PAUSE_MS = 600;

let last = { what: '', at: 0, group: '' };

/** @param what names the thing that is changed @returns the group of the change, the last one's while it goes on */
export function gestureOf(what: string, now = Date.now()): string {
  const goesOn = last.what === what && now - last.at <= PAUSE_MS;
  last = { what, at: now, group: goesOn ? last.group : `${what} ${now}` };
  return last.group;
}
