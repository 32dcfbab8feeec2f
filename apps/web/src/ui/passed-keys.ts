/** Keys that a control leaves to the page although it keeps its own parts from acting on them. */
const passed = new WeakSet<Event>();

export const passOn = (event: Event): void => void passed.add(event);
export const isPassedOn = (event: Event): boolean => passed.has(event);
