/** Series: names from a customer's list and numbers that count, a piece for each row, short runs, a newer list. */
import { expect, test, type Page } from '@playwright/test';
import { newJob, saved, setField, takeFilm, write } from './support.ts';

const csv = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });
const FIRST = 'Boat;Berth\nTern;4\nSandpiper of the Bay;5\nKnot;6\nŁódka;7\n';
const SECOND = 'Boat;Berth\nTern;4\nKnot;6\nDunlin;8\nSandpiper of the Bay;5\n';

const openCard = async (page: Page, title: string): Promise<void> => {
  const card = page.getByRole('button', { name: title, exact: true });
  if ((await card.getAttribute('aria-expanded')) === 'false') await card.click();
};

test('names from a list become pieces on short sheets; a correction stays with its row; one row again; undo and reload keep it', async ({
  page,
}) => {
  await newJob(page, 'Boat names');
  await takeFilm(page, 'Deep teal');
  await write(page, 'Marigold');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+a');
  await openCard(page, 'Series field');
  await page.getByRole('button', { name: 'Read a list…' }).click();
  await page.getByLabel('List file').setInputFiles(csv('boats.csv', FIRST));
  await expect(page.getByRole('table', { name: 'Preview of the list' })).toContainText('Sandpiper of the Bay');
  await page.getByRole('button', { name: 'Take 4 rows' }).click();
  await page.getByRole('button', { name: 'Take “Boat”' }).click();
  await expect(page.getByText('Tern / Sandpiper of the Bay / Knot …')).toBeVisible();
  await saved(page);

  await page.getByRole('link', { name: /Lay up/ }).click();
  await page.getByRole('combobox', { name: /Deep teal/ }).click();
  await page.getByRole('option', { name: /610 mm wide/ }).click();
  await openCard(page, 'Series');
  await expect(page.getByText(/^4 on one strip of/)).toBeVisible();
  await page.getByRole('switch', { name: 'Sheets of their own' }).click();
  await setField(page, 'Pieces a sheet', '1');
  const sheets = page.getByRole('list', { name: 'Sheets of the series' });
  await expect(sheets).toContainText('1: row');

  // a letter that the font lacks is found in its row, and corrected there
  await page.getByRole('button', { name: 'Rows…' }).click();
  const rows = page.getByRole('region', { name: 'Rows of the series' });
  const cell = rows.getByLabel('Boat, row 2');
  await cell.fill('Sandpiper');
  await cell.press('Enter');
  await rows.getByLabel('Make row 4').uncheck();
  await expect(rows.getByText('3 of 4 on')).toBeVisible();
  await saved(page);

  await page.getByRole('button', { name: 'Read a newer list…' }).click();
  await page.getByLabel('List file').setInputFiles(csv('boats-2.csv', SECOND));
  await expect(page.getByText(/1 new, 1 gone rows/)).toBeVisible();
  await expect(page.getByText(/Gone: Łódka/)).toBeVisible();
  await page.getByRole('button', { name: 'Take 4 rows' }).click();
  await expect(rows.getByLabel('Boat, row 4')).toHaveValue('Sandpiper');
  await expect(rows.getByText('4 of 4 on')).toBeVisible();

  await rows.getByLabel('Search rows').fill('knot');
  await rows.getByRole('button', { name: 'Make those alone' }).click();
  await expect(page.getByText('Only row 2 now.')).toBeVisible();
  await expect(sheets).toHaveText(/^1: row 2$/);
  await rows.getByRole('button', { name: /take all again/ }).click();
  await saved(page);
  await page.reload();
  await expect(page.getByText(/boats-2\.csv · 4 rows/)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Only row 2 now.')).toBeVisible();
});

test('a counter alone counts up with its padding; what cannot be is said; the sheets go to the queue one by one', async ({ page }) => {
  await newJob(page, 'Mooring numbers');
  await takeFilm(page, 'Signal blue');
  await write(page, 'No 000');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+a');
  await openCard(page, 'Series field');
  await page.getByRole('button', { name: 'Count up' }).click();
  await page.getByLabel('Words of each piece').fill('No {n}');
  await page.getByRole('link', { name: /Lay up/ }).click();
  await page.getByRole('combobox', { name: /Signal blue/ }).click();
  await page.getByRole('option', { name: /610 mm wide/ }).click();
  await openCard(page, 'Series');
  await setField(page, 'Pieces of the series', '6');
  await setField(page, 'Least digits', '2');
  await setField(page, 'Counter starts at', '97');
  await page
    .getByRole('button', { name: /Cut check/ })
    .or(page.getByRole('button', { name: /finding/ }))
    .click();
  await expect(page.getByText(/runs over its padding: from row 4/)).toBeVisible();
  await page.keyboard.press('Escape');
  await setField(page, 'Least digits', '3');
  await page.getByRole('switch', { name: 'Sheets of their own' }).click();
  await setField(page, 'Pieces a sheet', '1');
  await saved(page);
  await expect(page.getByText(/a sheet, ([2-9]|\d\d+) sheets of/)).toBeVisible({ timeout: 20_000 });
  const count = Number(/(\d+) sheets? of/.exec(await page.getByText(/a sheet, \d+ sheets? of/).innerText())?.[1]);
  expect(count).toBeGreaterThan(1);
  await page.getByRole('link', { name: /Send/ }).click();
  await page.getByRole('button', { name: 'Hold', exact: true }).click();
  const runs = page.locator('[data-run]').filter({ hasText: 'Mooring numbers' });
  await expect(runs).toHaveCount(count);
  await expect(runs.filter({ hasText: `sheet 2 of ${count}` }).first()).toBeVisible();
});

test('what is no list is refused in plain words and changes nothing', async ({ page }) => {
  await newJob(page, 'No list');
  await takeFilm(page, 'Deep teal');
  await write(page, 'Marigold');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+a');
  await openCard(page, 'Series field');
  await page.getByRole('button', { name: 'Read a list…' }).click();
  await page
    .getByLabel('List file')
    .setInputFiles({ name: 'names.csv', mimeType: 'text/csv', buffer: Buffer.from('\x89PNG\r\n\x1a\n0000', 'latin1') });
  await expect(page.getByRole('alert')).toContainText('This is a picture, not a list.');
  await expect(page.getByRole('button', { name: /^Take/ })).toBeDisabled();
  await page.getByRole('button', { name: 'Another list' }).click();
  await page.getByLabel('Pasted cells').fill('Boat\tBerth\nTern\t1\n');
  await page.getByRole('button', { name: 'Read what was pasted' }).click();
  await page.getByRole('button', { name: 'Take 1 row' }).click();
  await expect(page.getByRole('button', { name: 'Take “Berth”' })).toBeVisible();
});
