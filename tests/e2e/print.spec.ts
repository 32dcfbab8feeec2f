/** Print, then cut: from a picture to the finished piece, and what stops on the way. */
import type { APIRequestContext, Page } from '@playwright/test';
import sharp from 'sharp';
import { withSpotInk } from './odd-pictures.ts';
import { expect, test } from './shop.fixture.ts';
import { panelOf, type Shop } from './shops.ts';
import { addTreatment, newJob, saved, takeFilm, write } from './support.ts';

const cutterPanel = (shop: Shop): string => panelOf(shop, 1);
const printerPanel = (shop: Shop): string => panelOf(shop, 2);

/** A fish on a clear ground, of a colour of its own. */
const fish = (fill: string): Promise<Buffer> =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="400" height="260"><path d="M60 130C110 30 260 20 320 130C260 240 110 230 60 130Z" fill="${fill}"/><path d="M300 130L390 60V200Z" fill="${fill}"/><circle cx="120" cy="110" r="14" fill="#fff"/></svg>`,
    ),
  )
    .png()
    .toBuffer();

/** Brings a picture in, puts it on a print and an edge cut round it. */
async function drawSticker(page: Page, name: string, buffer: Buffer): Promise<void> {
  await newJob(page, name);
  await takeFilm(page, 'Gloss white');
  await page.getByLabel('File to bring in').setInputFiles({ name: 'fish.png', mimeType: 'image/png', buffer });
  await expect(page.getByTestId('selection')).toBeVisible();
  await expect(page.getByText('Only looked at: this picture is on no print.')).toBeVisible();
  const width = page.getByRole('textbox', { name: 'Width', exact: true }).first();
  await width.fill('120');
  await width.press('Enter');
  await page.getByRole('combobox', { name: 'Goes on' }).click();
  await page.getByRole('option', { name: /Print: Gloss white/ }).click();
  await page.getByRole('button', { name: 'Edge cut round the selection' }).click();
  await expect(page.getByRole('button', { name: 'Edge cut', exact: true })).toBeVisible();
  await expect(page.getByText('has a ground of its own')).toHaveCount(0);
  await saved(page);
}

async function send(page: Page): Promise<void> {
  await page.getByRole('link', { name: /Lay up/ }).click();
  await expect(page.getByText(/Short name of the sheet/)).toBeVisible();
  await page.getByRole('link', { name: /Send/ }).click();
  await page.getByRole('button', { name: 'Print 1 sheet on Wide printer 1600, hold 1 cut run for it' }).click();
  await expect(page).toHaveURL(/queue/);
}

/** The runs of a job: its print and its cut; the newest, when a journey is tried again. */
const runsOf = (page: Page, job: string) => page.locator('[data-run]').filter({ hasText: job });
const cutOf = (page: Page, job: string) => runsOf(page, job).filter({ hasText: 'Camera cutter 1400' }).first();
const printOf = (page: Page, job: string) => runsOf(page, job).filter({ hasText: 'Wide printer 1600' }).first();

/** Puts the newest printed sheet, or an older one, into the cutter. */
async function load(shop: Shop, request: APIRequestContext, nth = 0): Promise<void> {
  const tray = (await (await request.get(`${cutterPanel(shop)}/tray`)).json()) as { id: string }[];
  expect((await request.post(`${cutterPanel(shop)}/load/${tray[nth]?.id}`)).status()).toBe(204);
}

test.describe.configure({ mode: 'serial' });

test('a picture is printed, its sheet is found by its marks, and the cut lies on the print', async ({ page, request }) => {
  await drawSticker(page, 'Fish stickers', await fish('#1d6fa5'));
  await page.reload();
  await expect(page.getByRole('application', { name: 'Drawing' })).toBeVisible();
  await send(page);
  await expect(cutOf(page, 'Fish stickers').getByText('Held for its print')).toBeVisible();
  await expect(printOf(page, 'Fish stickers')).toHaveAttribute('data-state', 'done', { timeout: 40_000 });
  const cut = cutOf(page, 'Fish stickers');
  await expect(cut.getByText('Load the sheet', { exact: true })).toBeVisible();
  await expect(cut.getByRole('button', { name: 'Cut', exact: true })).toBeDisabled();

  await cut.getByRole('combobox', { name: 'Sheet in the cutter' }).click();
  await page.getByRole('option').first().click();
  await cut.getByRole('button', { name: 'Read the code' }).click();
  await expect(cut.getByText(/this is the sheet of this run/)).toBeVisible({ timeout: 20_000 });
  await cut.getByRole('group', { name: 'Move the tool' }).getByRole('button', { name: /right/ }).focus();
  await page.keyboard.press('Shift+ArrowRight');
  await expect(cut.getByText(/The tool is at/)).toBeVisible();
  await cut.getByRole('button', { name: 'Find the marks' }).click();
  await expect(cut.getByText(/All 4 marks found/)).toBeVisible({ timeout: 40_000 });
  await expect(cut.getByText(/Mark 4: 0\.\d\d mm off/)).toBeVisible();
  await cut.getByRole('button', { name: 'Frame run' }).click();
  await expect(cut.getByText(/gone round the work/)).toBeVisible({ timeout: 20_000 });
  await cut.getByRole('button', { name: 'Cut', exact: true }).click();
  await expect(cut).toHaveAttribute('data-state', 'done', { timeout: 40_000 });
  const off = Number(/(\d+\.\d+) mm/.exec((await cut.getByTestId('off').textContent()) ?? '')?.[1]);
  expect(off).toBeLessThan(0.3);

  const id = await cut.getAttribute('data-run');
  const picture = await (await request.get(`/api/runs/${id}/picture.svg`)).text();
  expect(picture).toContain('<image');
  const printed = await printOf(page, 'Fish stickers').getAttribute('data-run');
  const pdf = await (await request.get(`/api/runs/${printed}/print.pdf`)).body();
  expect(pdf.subarray(0, 8).toString('latin1')).toBe('%PDF-1.6');
  expect(pdf.toString('latin1')).toContain('Lorvek#20Kiss');
});

test('a mark that is covered is named, and another look goes on when it is free', async ({ page, request, shop }) => {
  await drawSticker(page, 'Covered fish', await fish('#b3423a'));
  await send(page);
  const cut = cutOf(page, 'Covered fish');
  await expect(cut.getByText('Load the sheet', { exact: true })).toBeVisible({ timeout: 40_000 });
  await load(shop, request);
  await request.post(`${cutterPanel(shop)}/fault/mark-missed/3`);
  await cut.getByRole('button', { name: 'Find the marks' }).click();
  await expect(cut.getByText(/Not found: mark 3/)).toBeVisible({ timeout: 50_000 });
  await expect(cut.getByRole('button', { name: 'Cut', exact: true })).toBeDisabled();
  await request.post(`${cutterPanel(shop)}/fault/mark-missed/off`);
  await cut.getByRole('button', { name: 'Find the marks' }).click();
  await expect(cut.getByText(/All 4 marks found/)).toBeVisible({ timeout: 40_000 });
});

test('the sheet of another run, and one the other way round, are told and not cut', async ({ page, request, shop }) => {
  await drawSticker(page, 'Second fish', await fish('#3f7d3a'));
  await send(page);
  const cut = cutOf(page, 'Second fish');
  await expect(cut.getByText('Load the sheet', { exact: true })).toBeVisible({ timeout: 40_000 });
  await load(shop, request, 1);
  await cut.getByRole('button', { name: 'Find the marks' }).click();
  await expect(cut.getByText(/another sheet is loaded/)).toBeVisible({ timeout: 30_000 });
  const tray = (await (await request.get(`${cutterPanel(shop)}/tray`)).json()) as { id: string }[];
  await request.post(`${cutterPanel(shop)}/load/${tray[0]?.id}?turned`);
  await cut.getByRole('button', { name: 'Read the code' }).click();
  await expect(cut.getByText(/No code is seen/)).toBeVisible({ timeout: 30_000 });
  await expect(cut.getByRole('button', { name: 'Cut', exact: true })).toBeDisabled();
});

test('a line that breaks in the middle of a print is said, the pair stays together, and retry prints once', async ({
  page,
  request,
  shop,
}) => {
  await drawSticker(page, 'Broken fish', await fish('#7a4a9c'));
  await request.post(`${printerPanel(shop)}/fault/line-lost/0.5`);
  await send(page);
  const print = printOf(page, 'Broken fish');
  await expect(print).toHaveAttribute('data-state', 'needs-you', { timeout: 30_000 });
  await expect(print.getByText(/broke after .* What came out is not whole/)).toBeVisible();
  await expect(cutOf(page, 'Broken fish').getByText('Held for its print')).toBeVisible();
  await print.getByRole('button', { name: 'Retry' }).click();
  await expect(print).toHaveAttribute('data-state', 'done', { timeout: 40_000 });
  await expect(cutOf(page, 'Broken fish').getByText('Load the sheet', { exact: true })).toBeVisible();
});

test('a picture with a ground asks for it to be lifted, and the line follows what is left', async ({ page }) => {
  const opaque = await sharp(await fish('#1d6fa5'))
    .flatten({ background: '#f4f0e4' })
    .png()
    .toBuffer();
  await newJob(page, 'Grounded fish');
  await takeFilm(page, 'Gloss white');
  await page.getByLabel('File to bring in').setInputFiles({ name: 'fish.png', mimeType: 'image/png', buffer: opaque });
  await expect(page.getByTestId('selection')).toBeVisible();
  await page.getByRole('combobox', { name: 'Goes on' }).click();
  await page.getByRole('option', { name: /Print: Gloss white/ }).click();
  await page.getByRole('button', { name: 'Edge cut round the selection' }).click();
  await expect(page.getByText(/has a ground of its own/)).toBeVisible();
  await page.getByRole('button', { name: 'Lift the ground' }).click();
  await expect(page.getByText(/has a ground of its own/)).toHaveCount(0);
  await saved(page);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Escape');
  await page
    .getByText(/^Edge cut of/)
    .first()
    .click();
  await expect(page.getByText(/has a ground of its own/)).toBeVisible();
  await page.getByRole('button', { name: 'Clipping outline' }).click();
  await expect(page.getByText(/has a ground of its own/)).toHaveCount(0);
});

test('white under a print on clear film: told when it is missing, switched on, seen as a plate of its own', async ({ page }) => {
  await newJob(page, 'Window words');
  await takeFilm(page, 'Window clear');
  await write(page, 'Tern');
  await page.keyboard.press('Escape');
  await saved(page);
  await page.getByRole('link', { name: /Lay up/ }).click();
  await page.getByRole('link', { name: /Send/ }).click();
  await expect(page.getByText(/is clear and no white is printed/)).toBeVisible();
  await page.getByRole('link', { name: /Lay up/ }).click();
  await page.getByRole('switch', { name: 'Print white' }).click();
  await saved(page);
  await page.getByRole('link', { name: /Send/ }).click();
  await expect(page.getByText(/is clear and no white is printed/)).toHaveCount(0);
  await page.getByRole('radio', { name: 'Plates' }).click();
  const plates = page.getByRole('list', { name: 'Plates' });
  await expect(plates).toContainText(/White [\d.]+ %/, { timeout: 30_000 });
  const cover = async (name: string): Promise<number> =>
    Number(/([\d.]+) %/.exec(await plates.getByRole('button', { name: new RegExp(`^${name}`) }).innerText())?.[1]);
  expect(await cover('White')).toBeGreaterThan(0);
  await plates.getByRole('button', { name: /^White/ }).dblclick();
  await expect(plates.getByRole('button', { name: /^White/ })).toHaveAttribute('aria-pressed', 'true');
  await expect(plates.getByRole('button', { name: /^Black/ })).toHaveAttribute('aria-pressed', 'false');
});

const layered = (marks: string) => ({
  name: 'glass.svg',
  mimeType: 'image/svg+xml',
  buffer: Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="80mm" viewBox="0 0 120 80">${marks}</svg>`),
});

test('a file is split into passes by its layers; files of one size become passes, of other sizes both are said', async ({ page }) => {
  await newJob(page, 'Glass in passes');
  await takeFilm(page, 'Gloss white');
  const bring = async (marks: string): Promise<void> => {
    await page.getByLabel('File to bring in').setInputFiles(layered(marks));
    await expect(page.getByText('Import report')).toBeVisible();
    await page.getByRole('combobox', { name: 'Goes on' }).click();
    await page.getByRole('option', { name: /Print: Gloss white/ }).click();
    await saved(page);
  };
  await bring(
    '<g id="Picture"><rect width="120" height="80" fill="#1d6fa5"/><circle cx="60" cy="40" r="20" fill="#c4281f"/></g><g id="White base"><rect x="10" y="10" width="60" height="40" fill="#222222"/></g>',
  );
  const split = async (): Promise<void> => {
    await page.getByRole('link', { name: /Lay up/ }).click();
    const card = page.getByRole('button', { name: 'White ink', exact: true });
    await expect(card).toBeVisible();
    if ((await card.getAttribute('aria-expanded')) === 'false') await card.click();
    await page.getByRole('button', { name: 'A pass for each of its 2 parts' }).click();
  };
  await split();
  const passes = page.getByRole('list', { name: 'Passes in the order of printing' }).getByRole('listitem');
  await expect(passes).toHaveCount(2);
  await expect(passes.nth(0)).toContainText('Picture');
  await expect(passes.nth(1).getByRole('combobox', { name: 'Kind of pass 2' })).toContainText('White');
  await expect(page.getByText(/printed in passes has one size/)).toHaveCount(0);
  await saved(page);
  await page.reload();
  await expect(passes).toHaveCount(2);

  // a second file of another size, beside it
  await page.getByRole('link', { name: /Draw/ }).click();
  await page.keyboard.press('Escape');
  await bring('<rect width="90" height="80" fill="#0f7a3c"/>');
  await split();
  await expect(page.getByText(/have one size: “glass” is 120 mm × 80 mm, “.*” is 90 mm × 80 mm/)).toBeVisible();
});

test('an ink of its own name in a TIFF stays a plate, from the file to the printer', async ({ page }) => {
  await newJob(page, 'Gold disc');
  await takeFilm(page, 'Gloss white');
  const buffer = withSpotInk(240, 160, 'Old gold');
  await page.getByLabel('File to bring in').setInputFiles({ name: 'disc.tif', mimeType: 'image/tiff', buffer });
  await expect(page.getByText(/It has an ink of its own: Old gold/)).toBeVisible();
  await page.getByRole('combobox', { name: 'Goes on' }).click();
  await page.getByRole('option', { name: /Print: Gloss white/ }).click();
  await saved(page);
  await page.reload();
  await page.getByRole('link', { name: /Send/ }).click();
  await page.getByRole('radio', { name: 'Plates' }).click();
  const plates = page.getByRole('list', { name: 'Plates' });
  await expect(plates.getByRole('button', { name: /Old gold/ })).toBeVisible();
  await page.getByRole('button', { name: 'Print 1 sheet on Wide printer 1600' }).click();
  await expect(printOf(page, 'Gold disc')).toContainText(/Ink: .*Old gold [\d.]+ ml/, { timeout: 30_000 });
  // it can stand for white, and then is nothing else
  await page.goBack();
  await page.getByRole('link', { name: /Lay up/ }).click();
  await page.getByRole('button', { name: 'White ink' }).click();
  await page.getByRole('switch', { name: 'Print white' }).click();
  await page.getByRole('combobox', { name: 'Coverage of white' }).click();
  await page.getByRole('option', { name: 'Named spot' }).click();
  await page.getByRole('switch', { name: 'Old gold' }).click();
  await saved(page);
  await page.getByRole('link', { name: /Send/ }).click();
  await page.getByRole('radio', { name: 'Plates' }).click();
  await expect(plates).toContainText(/White [\d.]+ %/, { timeout: 30_000 });
  await expect(plates.getByRole('button', { name: /Old gold/ })).toHaveCount(0);
});

test('a ring and a shade of printed words are printed with them, each in its colour', async ({ page }) => {
  await newJob(page, 'Gig stickers');
  await takeFilm(page, 'Gloss white');
  await write(page, 'Tern');
  await addTreatment(page, 'Ring');
  await page.locator('[data-treatment=ring]').getByRole('textbox', { name: 'Its named ink' }).fill('Old gold');
  await page.keyboard.press('Enter');
  await addTreatment(page, 'Shade');
  const shade = page.locator('[data-treatment=shade]');
  await expect(shade.getByRole('combobox', { name: 'Cut from or printed on' })).toContainText('Gloss white');
  await shade.getByRole('textbox', { name: 'Its colour in print, by number' }).fill('#00a0e0');
  await page.keyboard.press('Enter');
  await saved(page);
  await page.reload();
  await page.getByRole('link', { name: /Send/ }).click();
  await page.getByRole('radio', { name: 'Plates' }).click();
  const plates = page.getByRole('list', { name: 'Plates' });
  await expect(plates).toContainText(/Cyan [\d.]+ %/, { timeout: 30_000 });
  const cover = async (name: string): Promise<number> =>
    Number(/([\d.]+) %/.exec(await plates.getByRole('button', { name: new RegExp(`^${name}`) }).innerText())?.[1]);
  // the dark words have little cyan, their shade has much
  expect(await cover('Cyan')).toBeGreaterThan(1.5 * (await cover('Yellow')));
  // the ring has an ink of its own name, and so a plate
  expect(await cover('Old gold')).toBeGreaterThan(0);
  // nothing of it is cut from a film: Build says so, and leads on
  await page.keyboard.press('3');
  await expect(page.getByText(/is printed, and goes on to Lay up/)).toBeVisible();
  await page.getByRole('link', { name: 'To Lay up' }).click();
  await expect(page).toHaveURL(/layup/);
});
