/** Where the shops of the journeys are. */
import { join } from 'node:path';

export const root = join(import.meta.dirname, '..', '..');

/** As many as browsers work side by side. */
export const SHOPS = 2;

export interface Shop {
  readonly port: number;
  /** First port of its machines. */
  readonly machinePort: number;
  readonly data: string;
  /** Folder of files that customers sent. */
  readonly inbox: string;
}

export function shopOf(nth: number): Shop {
  const data = join(root, 'test-results', `data-${nth}`);
  return { port: 7491 + 10 * nth, machinePort: 9491 + 20 * nth, data, inbox: join(data, 'inbox') };
}

/** The front panel of a simulated machine. @param nth as the machines are started, from 0 */
export const panelOf = (shop: Shop, nth: number): string => `http://127.0.0.1:${shop.machinePort + 2 * nth + 1}`;
