/** What the tests of drawings have in common. */
import type { Film } from './index.ts';

/** A film that is called after its id. */
export const film = (id: string): Film => ({
  type: 'film',
  id,
  stockId: id,
  name: id,
  series: 's',
  hex: '#112233',
  transfer: false,
  visible: true,
  locked: false,
});
