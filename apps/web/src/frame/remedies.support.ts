/** What tests of remedies have in common: the modules of the page that they work on, and a server that never answers. */
import { afterEach, beforeAll, beforeEach } from '@jest/globals';
import type * as Shop from '../api/shop.ts';
import { standInForBrowser } from '../browser.support.ts';
import type * as Sheets from '../document/sheets.ts';
import type * as Store from '../document/store.ts';
import type * as Remedies from './remedies.ts';

/** Modules that can be loaded only once something stands in for a browser. */
export interface RemedyModules {
  store: typeof Store;
  shop: typeof Shop;
  sheets: typeof Sheets;
  remedies: typeof Remedies;
}

/** @returns what is there from the first test on; after each, no job is open and nothing is in Stock */
export function remedyModules(): RemedyModules {
  standInForBrowser({
    // what has to be worked out stays unknown here
    Worker: class {
      postMessage = (): void => undefined;
      terminate = (): void => undefined;
    },
  });
  const loaded = {} as RemedyModules;
  const realFetch = globalThis.fetch;
  beforeAll(async () => {
    loaded.store = await import('../document/store.ts');
    loaded.shop = await import('../api/shop.ts');
    loaded.sheets = await import('../document/sheets.ts');
    loaded.remedies = await import('./remedies.ts');
  });
  beforeEach(() => {
    // nothing answers: what is made waits, and the page works on
    globalThis.fetch = () => Promise.reject(new TypeError('away'));
  });
  afterEach(() => {
    loaded.store.closeDocument();
    loaded.shop.useShop.setState({ stock: undefined });
    loaded.sheets.useSheets.setState({ sheets: [] });
    globalThis.fetch = realFetch;
  });
  return loaded;
}
