/** The shop floor: kinds of lines with their setups, the queue in its order, machines tried out, Stock that is kept. */
import type { Page } from '@playwright/test';
import { readFile } from 'node:fs/promises';
import { expect, test } from './shop.fixture.ts';
import { box, newJob, saved, setField, takeFilm } from './support.ts';

const BENCH = 'Bench cutter 610';
/** A job with a box on a roll, at Send. */
async function toSend(page: Page, name: string): Promise<void> {
  await newJob(page, name);
  await takeFilm(page, 'Deep teal');
  await box(page, 0.3, '80', '50');
  await saved(page);
  await page.getByRole('link', { name: /Lay up/ }).click();
  await page.getByRole('combobox', { name: /Deep teal/ }).click();
  await page.getByRole('option', { name: /610 mm wide/ }).click();
  await saved(page);
  await page.getByRole('link', { name: /Send/ }).click();
}

test('each kind of line has its setup and its place, just that goes out; the cut is played; the queue is put in another order and logged', async ({
  page,
}) => {
  await toSend(page, 'Quay plates');
  const film = page.locator('[data-kind="film"]');
  await expect(film.getByTestId('goes-out')).toHaveText('Tool 1 · 400 mm/s · 90 g');
  await film.getByRole('combobox', { name: 'Setup of Film' }).click();
  await page.getByRole('option', { name: 'Setup 4 on the machine' }).click();
  await expect(film.getByTestId('goes-out')).toHaveText('Tool 4 · its own stored values');
  await page.getByRole('button', { name: 'Cut Film later' }).click();
  await expect(page.locator('[data-kind]').first()).toHaveAttribute('data-kind', 'weed');
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'HPGL' }).click();
  const told = await readFile((await (await download).path())!, 'latin1');
  // weed lines first with their values, then the film with the number alone
  expect(told.match(/SP\d;(VS\d+;FS\d+;)?/g)?.slice(0, 2)).toEqual(['SP1;VS40;FS90;', 'SP4;']);
  await page.getByRole('radio', { name: 'The cut played in its order' }).click();
  await page.getByRole('slider', { name: 'How far the cut is' }).fill('1000');
  await expect(page.getByTestId('played')).toContainText('2 of 2 ways');
  await page.getByRole('button', { name: 'Cut Film earlier' }).click();
  await film.getByRole('combobox', { name: 'Setup of Film' }).click();
  await page.getByRole('option', { name: 'as chosen' }).click();
  for (let k = 0; k < 2; k++) {
    await page.getByRole('button', { name: 'Hold', exact: true }).click();
    await expect(page).toHaveURL(/queue/);
    if (k === 0) await page.goBack();
  }
  const lane = page.getByRole('region', { name: `To do on ${BENCH}` });
  const runs = lane.locator('[data-run]').filter({ hasText: 'Quay plates' });
  await expect(runs).toHaveCount(2);
  const before = await runs.evaluateAll((rows) => rows.map((row) => row.getAttribute('data-run')));
  // by keys, as by the mouse
  await lane
    .getByRole('button', { name: /Move Breakwater 7-year Deep teal of Quay plates/ })
    .last()
    .focus();
  await page.keyboard.press('Space');
  await page.waitForTimeout(400);
  await page.keyboard.press('ArrowUp');
  await page.waitForTimeout(300);
  await page.keyboard.press('Space');
  await expect.poll(() => runs.evaluateAll((rows) => rows.map((row) => row.getAttribute('data-run')))).toEqual([...before].reverse());
  await page.reload();
  await expect.poll(() => runs.evaluateAll((rows) => rows.map((row) => row.getAttribute('data-run')))).toEqual([...before].reverse());
  await page.getByRole('searchbox', { name: 'Search the queue' }).fill('nothing like it');
  await expect(page.getByText('No run is like that.')).toBeVisible();
  await page.getByRole('searchbox', { name: 'Search the queue' }).fill('quay deep');
  await expect(runs).toHaveCount(2);
  await runs.first().getByRole('button', { name: /large/ }).click();
  const dialog = page.getByRole('dialog');
  await expect(
    dialog
      .getByText('Given another place in the queue.')
      .or(dialog.getByText(/Sent to Bench cutter/))
      .first(),
  ).toBeVisible();
  await dialog.getByRole('combobox', { name: 'On the machine' }).click();
  await page.getByRole('option', { name: 'Camera cutter 1400' }).click();
  await expect(dialog.getByText(/Given to Camera cutter 1400/)).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('region', { name: 'To do on Camera cutter 1400' }).locator('[data-run]')).toHaveCount(1);
  const held = page.locator('[data-run][data-state="held"]').filter({ hasText: 'Quay plates' });
  for (const left of [1, 0]) {
    await held.first().getByRole('button', { name: 'Release' }).click();
    await expect(held).toHaveCount(left);
  }
  await expect(page.locator('[data-run][data-state="done"]').filter({ hasText: 'Quay plates' })).toHaveCount(2, { timeout: 40_000 });
  await expect(page.getByTestId('today')).toContainText(/[1-9]\d* cut/);
});

test('what is left of a sheet goes into Stock and is offered; inks, levels and lists are kept', async ({ page }) => {
  await toSend(page, 'Slip notices');
  await page.getByRole('button', { name: /^Cut \d/ }).click();
  const run = page.locator('[data-run]').filter({ hasText: 'Slip notices' }).first();
  await expect(run).toHaveAttribute('data-state', 'done', { timeout: 30_000 });
  await run.getByRole('button', { name: /large/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Into Stock' }).click();
  await expect(page.getByText('What is left of it is in Stock.')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Stock', exact: true }).click();
  await expect(page.getByRole('img', { name: 'Its shape' })).toHaveCount(1);
  const label = page.waitForEvent('download');
  await page.getByRole('link', { name: /Label for the .* offcut of Deep teal/ }).click();
  expect((await readFile((await (await label).path())!, 'latin1')).slice(0, 5)).toBe('%PDF-');
  await setField(page, 'Order Deep teal again below', '500');
  await expect(page.getByText('order again', { exact: true }).first()).toBeVisible();
  await expect(page.getByText('1 to order again')).toBeVisible();
  await setField(page, 'Order Deep teal again below', '0');
  await expect(page.getByText('1 to order again')).toHaveCount(0);
  const inks = page.getByRole('region', { name: 'Inks and laminates' });
  await setField(page, 'Left of Cyan ink', '90');
  await expect(
    inks
      .locator('tr')
      .filter({ has: page.getByLabel('Name of Cyan ink') })
      .getByText('order again'),
  ).toBeVisible();
  await expect(page.getByRole('region', { name: 'Used by month' }).getByText('Breakwater 7-year Deep teal')).toBeVisible();
  await page.getByRole('button', { name: 'List in' }).click();
  await page.getByLabel('The list', { exact: true }).setInputFiles({
    name: 'stock.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('series;name;colour;price per metre;width mm;length m\nHarbour 5-year;Net green;#2f6b4f;7,20;610;15\n'),
  });
  await expect(page.getByText('Harbour 5-year Net green')).toBeVisible();
  await page.getByRole('button', { name: 'Take it' }).click();
  await expect(page.getByRole('heading', { name: 'Harbour 5-year' })).toBeVisible();
  await page.getByRole('button', { name: 'List in' }).click();
  await page
    .getByLabel('The list', { exact: true })
    .setInputFiles({ name: 'x.csv', mimeType: 'text/csv', buffer: Buffer.from('series;name;colour\nA;B;blue\n') });
  await expect(page.getByText(/1 rows cannot be read.*row 2, colour/)).toBeVisible();
  await expect(page.getByRole('button', { name: /Take it|Nothing would change/ })).toBeDisabled();
});

test('a machine is asked who is there, tried out, its camera measured; what goes wrong is switched; marks that it does not find are said', async ({
  page,
}) => {
  await page.goto('/machines');
  const panel = page.locator('section.panel').filter({ has: page.locator('input[value="Camera cutter 1400"]') });
  await panel.getByRole('button', { name: 'At the machine' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Ask who is there' }).click();
  await expect(dialog.getByText(/“Camera cutter 1400” answers/)).toBeVisible();
  await dialog.getByRole('group', { name: 'Move the tool' }).getByRole('button', { name: /right/ }).focus();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(dialog.getByText(/The tool is at 0\.10, 0\.00 mm/)).toBeVisible();
  await dialog.getByRole('region', { name: 'Blade test' }).getByRole('button').click();
  await dialog.getByRole('button', { name: '4: 0.30 mm' }).click({ timeout: 30_000 });
  await dialog.getByRole('radio', { name: 'Where the camera looks' }).click();
  await dialog.getByRole('button', { name: 'Draw it' }).click();
  await expect(dialog.getByText(/The square is drawn/)).toBeVisible({ timeout: 20_000 });
  await dialog.getByRole('button', { name: 'Find it' }).click();
  await expect(dialog.getByText(/The camera looks 0\.6\d mm to the right and -0\.(3|4)\d mm up/)).toBeVisible({ timeout: 20_000 });
  await dialog.getByRole('button', { name: 'Check it' }).click();
  await expect(dialog.getByText(/Checked: the second square/)).toBeVisible({ timeout: 20_000 });
  await dialog.getByRole('radio', { name: 'What goes wrong' }).click();
  await dialog.getByLabel('Answers make no sense', { exact: true }).click();
  await expect(dialog.getByLabel('Answers make no sense', { exact: true })).toBeChecked();
  await dialog.getByLabel('Answers make no sense', { exact: true }).click();
  await expect(dialog.getByLabel('Answers make no sense', { exact: true })).not.toBeChecked();
  await page.keyboard.press('Escape');
  // the offset that was taken is in the setup
  await expect(panel.getByLabel('Blade offset').first()).toHaveValue('0.3');
  await panel.getByLabel('corners inward').click();
  await page.goto('/jobs');
  await page
    .getByRole('link', { name: /Kayak hire stickers/ })
    .first()
    .click();
  await page.getByRole('link', { name: /Send/ }).click();
  await expect(page.getByText(/Camera cutter 1400 does not find corners inward/).first()).toBeVisible({ timeout: 20_000 });
  await expect(page.getByRole('button', { name: /^Print \d/ })).toBeDisabled();
  await page.getByRole('button', { name: 'Take those' }).click();
  await expect(page.getByRole('button', { name: /^Print \d/ })).toBeEnabled({ timeout: 20_000 });
  await page.getByRole('radio', { name: 'How it will look when it is printed' }).click();
  await expect(page.getByTestId('beyond')).toContainText(/out of reach|within reach/, { timeout: 30_000 });
  await page.getByRole('combobox', { name: 'Printer' }).click();
  await page.getByRole('option', { name: 'Desk printer' }).click();
  await expect(page.getByRole('combobox', { name: 'Paper' })).toContainText('A4');
  await page.getByRole('radio', { name: 'The print alone' }).last().click();
  await page.getByRole('button', { name: /^Print \d/ }).click();
  const printed = page.locator('[data-run]').filter({ hasText: 'Desk printer' }).first();
  await expect(printed).toHaveAttribute('data-state', 'done', { timeout: 60_000 });
});
