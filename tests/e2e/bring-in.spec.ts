/** What comes in looks as it came: films in order, colours matched honestly, words kept, newer savings in their place. */
import type { Page } from '@playwright/test';
import { PDFDocument, rgb } from '@cantoo/pdf-lib';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from './shop.fixture.ts';
import { fieldValue, newJob, saved, setField } from './support.ts';

const bring = (page: Page, name: string, content: string | Buffer): Promise<void> =>
  page.getByLabel('File to bring in').setInputFiles({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(content) });

const svg = (inner: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100">${inner}</svg>`;

test('dots on a plate stay on it; a colour both under and over another is cut out of it, and said', async ({ page }) => {
  await newJob(page, 'Plate with dots');
  const dots = Array.from(
    { length: 40 },
    (_, i) => `<circle cx="${10 + 20 * (i % 10)}" cy="${20 + 20 * Math.floor(i / 10)}" r="6" fill="#ffffff"/>`,
  ).join('');
  await bring(page, 'dots.svg', svg(`<rect width="200" height="100" fill="#c4281f"/>${dots}`));
  await expect(page.getByText('Import report')).toBeVisible();
  const strip = page.getByRole('complementary', { name: 'Film strip' });
  await expect(strip.getByText('Buoy red')).toBeVisible();
  // white lies above red: the strip has the topmost film first
  const names = await strip.getByRole('button', { name: /red|white/i }).allInnerTexts();
  expect(names.findIndex((name) => /white/i.test(name))).toBeLessThan(names.findIndex((name) => /red/i.test(name)));
  await page.keyboard.press('Escape');
  await bring(
    page,
    'target.svg',
    svg(
      '<rect width="100" height="100" fill="#c4281f"/><circle cx="50" cy="50" r="30" fill="#ffffff"/><circle cx="50" cy="50" r="12" fill="#c4281f"/>',
    ),
  );
  await expect(page.getByText(/lie both over and under one another/)).toBeVisible();
  await expect(page.getByRole('button', { name: /^Cut check: 0 findings/ })).toBeVisible();
  // or whole, one on another in layers: a layer of the film over the white, and a step back
  await page.getByRole('button', { name: 'Lay them whole, in layers' }).click();
  await expect(strip.getByText('Buoy red 2')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Lay them whole, in layers' })).toBeHidden();
  const layers = (await strip.locator('[data-film]').allInnerTexts()).map((text) => text.split('\n')[0]);
  expect(layers.indexOf('Buoy red 2')).toBeLessThan(layers.findIndex((name) => /white/i.test(name ?? '')));
  await page.keyboard.press('Control+z');
  await expect(strip.getByText('Buoy red 2')).toBeHidden();
  await saved(page);
});

test('far colours are proposed and hatched, merged, entered in Stock or printed instead', async ({ page }) => {
  await newJob(page, 'Far colours');
  const odd = ['#7f3fbf', '#9be564', '#ff66cc']
    .map((hex, i) => `<rect x="${10 + 60 * i}" y="10" width="50" height="80" fill="${hex}"/>`)
    .join('');
  await bring(page, 'odd.svg', svg(odd));
  await expect(page.getByText(/3 have no film yet because none is within ΔE 6/)).toBeVisible();
  await expect(page.getByText('No film yet: hatched', { exact: false }).first()).toBeVisible();
  await expect(page.getByRole('link', { name: 'Enter it in Stock…' }).first()).toBeVisible();
  await expect(page.getByRole('button', { name: /from Stock, ΔE/ }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Print them instead' }).click();
  await expect(page.getByText(/no film yet because/)).toBeHidden();
  await expect(page.getByRole('complementary', { name: 'Film strip' }).getByText(/print/i).first()).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/3 have no film yet because none is within ΔE 6/)).toBeVisible();
  await page.getByRole('link', { name: 'Enter it in Stock…' }).first().click();
  await expect(page.getByRole('dialog', { name: 'Film into Stock' })).toBeVisible();
  await expect(page.getByRole('dialog').getByLabel('Colour', { exact: true })).toHaveValue(/^#(7f3fbf|9be564|ff66cc)$/);
});

test('words in a font that the shop does not have come in as lettering that can be written', async ({ page }) => {
  await newJob(page, 'Words');
  await bring(page, 'words.svg', svg('<text x="20" y="60" font-size="30" font-family="Quellwerk Sans" fill="#c4281f">Harbour</text>'));
  await expect(page.getByText('The font Quellwerk Sans is not there', { exact: false })).toBeVisible();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Harbour, wanted Quellwerk Sans');
  await expect.poll(() => fieldValue(page, 'Height of capitals')).toBeCloseTo(21, 0);
  await saved(page);
});

test('a newer saving of an Inbox file keeps turn, mirror and size, and is told at every station', async ({ page, shop }) => {
  const file = join(shop.inbox, 'badge-turned.svg');
  writeFileSync(
    file,
    svg('<rect x="10" y="10" width="80" height="30" fill="#c4281f"/><rect x="20" y="50" width="20" height="20" fill="#c4281f"/>'),
  );
  await newJob(page, 'Turned badge');
  const row = page.getByRole('listitem').filter({ hasText: 'badge-turned.svg' });
  await row.getByRole('button', { name: 'Place' }).click();
  await expect(page.getByText('Import report')).toBeVisible();
  await setField(page, 'Width', '160');
  await setField(page, 'Turn', '90');
  await page.getByRole('button', { name: 'Mirror sideways' }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(120);
  await saved(page);
  writeFileSync(
    file,
    svg('<rect x="10" y="10" width="80" height="30" fill="#c4281f"/><rect x="20" y="60" width="20" height="30" fill="#c4281f"/>'),
  );
  await page.getByRole('link', { name: 'Lay up' }).click();
  await expect(page.getByText('1 newer')).toBeVisible();
  await page.getByText('1 newer').click();
  await row.getByRole('button', { name: 'Update' }).click();
  await expect(page.getByText(/updated in its place/)).toBeVisible();
  // 80 by 80 at twice the size and turned
  await expect.poll(() => fieldValue(page, 'Width')).toBe(160);
  await expect.poll(() => fieldValue(page, 'Height')).toBe(160);
  await expect(page.getByText('1 newer')).toBeHidden();
});

test('each page of a PDF shows its own picture and size', async ({ page }) => {
  const file = await PDFDocument.create();
  for (const [w, h, size] of [
    [300, 200, 60],
    [200, 400, 120],
  ] as const) {
    const one = file.addPage([w, h]);
    one.drawRectangle({ x: 20, y: 20, width: size, height: size, color: rgb(0.77, 0.16, 0.12) });
  }
  await newJob(page, 'Pages');
  await bring(page, 'pages.pdf', Buffer.from(await file.save()));
  const second = page.getByRole('radio', { name: 'Page 2' });
  await expect(second).toContainText('70.56 mm × 141.11 mm');
  await expect(second.locator('svg path')).toHaveCount(1);
  await second.click();
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(42.33, 1);
});

test('what a group holds is flattened without taking it apart; beyond forty items too', async ({ page }) => {
  await newJob(page, 'Many parts');
  const many = Array.from(
    { length: 60 },
    (_, i) => `<rect x="${3 * i}" y="${10 + (i % 3)}" width="6" height="40" fill="${i % 4 < 2 ? '#c4281f' : '#ffffff'}"/>`,
  ).join('');
  await bring(page, 'many.svg', svg(many));
  await expect(page.getByText('Import report')).toBeVisible();
  await expect(page.getByText('60 items: what comes of them is not shown before.', { exact: false })).toBeVisible();
  await page.getByRole('button', { name: 'Flatten colours' }).click();
  // neighbours of one colour are one piece each
  await expect(page.getByText('60 items: what comes of them is not shown before.', { exact: false })).toBeHidden();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('many');
  await saved(page);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+a');
  await expect(page.getByText('60 items: what comes of them is not shown before.', { exact: false })).toBeVisible();
});
