/** Series: names from a customer's list and numbers that count, a piece for each row, short runs, a newer list. */
import type { Page } from '@playwright/test';
import { PDFDocument } from '@cantoo/pdf-lib';
import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { expect, test } from './shop.fixture.ts';
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
  const cut = page.getByText('Length of cut', { exact: true }).locator('xpath=following-sibling::*');
  const onOneStrip = parseFloat(await cut.innerText());
  await page.getByRole('switch', { name: 'Sheets of their own' }).click();
  await setField(page, 'Pieces a sheet', '1');
  const sheets = page.getByRole('list', { name: 'Sheets of the series' });
  await expect(sheets).toContainText('1: row');
  // the same is cut on however many sheets, but for the weed boxes
  await expect(sheets).toContainText('2: row');
  expect(parseFloat(await cut.innerText())).toBeGreaterThan(0.9 * onOneStrip);

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

const emblem = (fill: string): Promise<Buffer> =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="240" height="160"><path d="M30 80C50 20 150 10 210 80C150 150 50 140 30 80Z" fill="${fill}"/></svg>`,
    ),
  )
    .png()
    .toBuffer();
const picture = async (name: string, fill: string) => ({ name, mimeType: 'image/png', buffer: await emblem(fill) });

test('a picture of each row by its file name, bled and cut round; a picture that is lacking is named by its row', async ({ page }) => {
  await newJob(page, 'Hull emblems');
  await takeFilm(page, 'Gloss white');
  await page.getByLabel('File to bring in').setInputFiles(await picture('sample.png', '#1d6fa5'));
  await expect(page.getByTestId('selection')).toBeVisible();
  await setField(page, 'Width', '80');
  await page.getByRole('combobox', { name: 'Goes on' }).click();
  await page.getByRole('option', { name: /Print: Gloss white/ }).click();
  await openCard(page, 'Series field');
  await page.getByRole('button', { name: 'Read a list…' }).click();
  await page.getByLabel('List file').setInputFiles(csv('emblems.csv', 'Boat;Emblem\nTern;tern.png\nKnot;KNOT\nDunlin;dunlin.png\n'));
  await page.getByRole('button', { name: 'Take 3 rows' }).click();
  await page.getByRole('button', { name: 'Take “Emblem”' }).click();
  await page.getByRole('button', { name: 'Edge cut round the selection' }).click();
  await setField(page, 'Distance (minus: inward)', '0.5');
  const blue = (): Promise<number> =>
    page
      .getByRole('application', { name: 'Drawing' })
      .locator('canvas')
      .first()
      .evaluate((one) => {
        const { width, height } = one as HTMLCanvasElement;
        const { data } = ((one as HTMLCanvasElement).getContext('2d') as CanvasRenderingContext2D).getImageData(0, 0, width, height);
        let count = 0;
        for (let i = 0; i < data.length; i += 4) if ((data[i] ?? 0) < 60 && (data[i + 2] ?? 0) > 140 && (data[i + 2] ?? 0) < 190) count++;
        return count;
      });
  const before = await blue();
  await page.getByRole('switch', { name: 'Carry the art outward (bleed)' }).click();
  // the drawing shows what is carried outward
  await expect.poll(blue, { timeout: 20_000 }).toBeGreaterThan(1.02 * before);
  await saved(page);

  await page.getByRole('link', { name: /Lay up/ }).click();
  await openCard(page, 'Series');
  await page
    .getByLabel('Pictures of the series')
    .setInputFiles([await picture('tern.png', '#c4281f'), await picture('knot.png', '#0f7a3c')]);
  await expect(page.getByText('2 pictures by file name')).toBeVisible();
  await page.getByRole('button', { name: /finding|Cut check/ }).click();
  await expect(page.getByText(/Row 3: there is no picture “dunlin\.png”/)).toBeVisible({ timeout: 20_000 });
  await page.keyboard.press('Escape');
  await page.getByLabel('Pictures of the series').setInputFiles([await picture('dunlin.png', '#7a3c0f')]);
  await expect(page.getByText('3 pictures by file name')).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.getByText('3 pictures by file name')).toBeVisible();
  // what is printed are the pictures of the rows, none of the sample
  await page.getByRole('link', { name: /Send/ }).click();
  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name: 'PDF' }).click();
  const { context } = await PDFDocument.load(readFileSync(await (await coming).path()));
  const images = context.enumerateIndirectObjects().filter(([, one]) => /\/Subtype \/Image[^]*\/SMask/.test(one.toString()));
  expect(images).toHaveLength(3);
});
