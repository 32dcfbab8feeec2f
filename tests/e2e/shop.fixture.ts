/**
 * Journeys run side by side, each browser in a shop of its own – machines, data, server – so that none meets the jobs
 * and rolls of another. The shops are opened before the first journey and stay open (playwright.config.ts).
 */
import { expect, test as base } from '@playwright/test';
import { shopOf, type Shop } from './shops.ts';

export const test = base.extend<object, { shop: Shop }>({
  shop: [
    // the runner reads what a fixture needs off its first parameter
    // eslint-disable-next-line no-empty-pattern -- this one needs nothing
    ({}, use, { parallelIndex }) => use(shopOf(parallelIndex)),
    { scope: 'worker' },
  ],
  baseURL: ({ shop }, use) => use(`http://127.0.0.1:${shop.port}`),
});

export { expect };
