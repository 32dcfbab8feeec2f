/** Numbers by lot that come again: whoever searches with the same seed finds the same. */

/**
 * A linear congruential generator (D. Knuth, The Art of Computer Programming 2, 3.2.1; the numbers after W. Press et al.,
 * Numerical Recipes): quick, and even enough for what only has to be tried in another order.
 * @returns the next number from 0 up, below 1
 */
export function randomFrom(seed: number): () => number {
  let state = seed >>> 0 || 1;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

/**
 * All of a list in an order by lot, each as likely (R. Durstenfeld, Algorithm 235, 1964).
 * @param random from 0 up, below 1
 */
export function shuffled<T>(list: Iterable<T>, random: () => number): T[] {
  const out = [...list];
  for (let i = out.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [out[i], out[j]] = [out[j] as T, out[i] as T];
  }
  return out;
}
