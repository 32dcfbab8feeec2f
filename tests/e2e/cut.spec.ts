/** From a word to a piece of cut film, and what happens when the machine is off. */
import { expect, test } from './shop.fixture.ts';
import { panelOf } from './shops.ts';
import { newJob, saved, setField, takeFilm, write } from './support.ts';

test('a word is written, laid on a roll, sent, cut, and the picture shows it', async ({ page, request }) => {
  await newJob(page, 'Harbour master door');
  await takeFilm(page, 'Deep teal');
  await write(page, 'Quay 7');
  await setField(page, 'Height of capitals', '60');
  await saved(page);

  await page.getByRole('link', { name: /Lay up/ }).click();
  await expect(page.getByText('Everything: 1 item from 1 film (Deep teal).')).toBeVisible();
  await page.getByRole('combobox', { name: /Deep teal/ }).click();
  await page.getByRole('option', { name: /610 mm wide/ }).click();
  await expect(page.getByText('Used length')).toBeVisible();
  await saved(page);

  await page.getByRole('link', { name: /Send/ }).click();
  await expect(page.getByText('Nothing was found that would go wrong.')).toBeVisible();
  const file = await page.request.get((await page.getByRole('link', { name: 'HPGL' }).getAttribute('href')) ?? '');
  expect((await file.text()).startsWith('IN;PA;SP1;')).toBe(true);
  await page.getByRole('button', { name: 'Cut 1 sheet' }).click();

  const run = page.locator('[data-run]').filter({ hasText: 'Harbour master door' }).first();
  await expect(run).toHaveAttribute('data-state', 'done', { timeout: 30_000 });
  await expect(run.getByAltText('What the blade cut')).toBeVisible();
  const id = await run.getAttribute('data-run');
  const picture = await (await request.get(`/api/runs/${id}/picture.svg`)).text();
  // Q, u, a, y, 7 and the two holes, and the weed box
  expect(picture.match(/<path/g)?.length).toBe(8);
});

test('a run is paused, resumed, cancelled and repeated, with the carriage on the sheet', async ({ page }) => {
  await page.goto('/jobs');
  await page.getByRole('link', { name: /Open Crew shirts/ }).click();
  await expect(page.getByRole('application', { name: 'Drawing' })).toBeVisible();
  await page.keyboard.press('5');
  await page.getByRole('button', { name: 'Cut 1 sheet' }).click();
  const run = page.locator('[data-run]').filter({ hasText: 'Crew shirts' }).first();
  await expect(run).toHaveAttribute('data-state', 'working');
  await expect(run.getByTestId('carriage')).toBeVisible();
  await run.getByRole('button', { name: 'Pause' }).click();
  await expect(run).toHaveAttribute('data-state', 'paused');
  await run.getByRole('button', { name: 'Resume' }).click();
  await run.getByRole('button', { name: 'Cancel' }).click();
  await expect(run).toHaveAttribute('data-state', 'cancelled');
  await run.getByRole('button', { name: 'Repeat' }).click();
  const again = page.locator('[data-run][data-state="working"], [data-run][data-state="done"]').filter({ hasText: 'Crew shirts' }).first();
  await expect(again).toHaveAttribute('data-state', 'done', { timeout: 40_000 });
});

test('a machine that is off gives a run that needs you, says why, and is cut on retry', async ({ page, request, shop }) => {
  const panel = panelOf(shop, 0);
  await request.post(`${panel}/power/off`);
  try {
    await page.goto('/jobs');
    await page.getByRole('link', { name: /Open Crew shirts/ }).click();
    await expect(page.getByRole('application', { name: 'Drawing' })).toBeVisible();
    await page.keyboard.press('5');
    await expect(page.getByText(/No machine answers at/)).toBeVisible();
    await page.getByRole('button', { name: 'Cut 1 sheet' }).click();
    const run = page.locator('[data-run]').filter({ hasText: 'Crew shirts' }).first();
    await expect(run).toHaveAttribute('data-state', 'needs-you');
    await expect(run.getByText(/does not answer. Switch it on/)).toBeVisible();
    await request.post(`${panel}/power/on`);
    await run.getByRole('button', { name: 'Retry' }).click();
    await expect(run).toHaveAttribute('data-state', 'done', { timeout: 40_000 });
  } finally {
    await request.post(`${panel}/power/on`);
  }
});
