/** Build: how films lie on one another, what is cut of each, what it costs, and that Lay up and the papers follow. */
import type { Page } from '@playwright/test';
import { expect, test } from './shop.fixture.ts';
import { fieldValue, newJob, saved, setField, setShape, takeFilm, drag } from './support.ts';

const strip = (page: Page) => page.getByRole('complementary', { name: 'Film strip' });
const stations = (page: Page) => page.getByRole('navigation', { name: 'Stations' });

/** A navy plate of 200 × 100 mm with a white box of 40 mm in the middle of it. */
async function plate(page: Page): Promise<void> {
  await takeFilm(page, 'Harbour navy');
  await page.keyboard.press('b');
  await drag(page, [0.3, 0.3], [0.6, 0.6]);
  await setShape(page, '200', '100');
  await setField(page, 'X', '100');
  await setField(page, 'Y', '100');
  await page.keyboard.press('Escape');
  await takeFilm(page, 'Chalk white');
  await page.keyboard.press('b');
  await drag(page, [0.4, 0.4], [0.45, 0.45]);
  await setShape(page, '40', '40');
  await setField(page, 'X', '180');
  await setField(page, 'Y', '130');
  await saved(page);
}

test('a film is laid over, let in with a trap, or left out; the cut on Lay up follows, undo takes it back', async ({ page }) => {
  await newJob(page, 'Plate');
  await plate(page);
  await page.keyboard.press('3');
  const order = page.getByRole('region', { name: 'Order of laying' });
  await expect(order.getByRole('listitem')).toHaveCount(2);
  await expect(order.getByRole('listitem').nth(0)).toContainText('Harbour navy');
  await expect(order.getByRole('listitem').nth(1)).toContainText('on it');
  const cut = async (film: string): Promise<string | null> => {
    const cost = page.getByRole('group').filter({ hasText: film }).filter({ hasText: 'Length of cut' });
    if (!(await cost.getByText('Length of cut').isVisible())) await cost.getByText(film).click();
    return cost.locator('div', { hasText: /^Area/ }).last().textContent();
  };
  await expect.poll(() => cut('Harbour navy')).toContain('200 cm²');
  await page.getByRole('radio', { name: /^Let into the films below/ }).click();
  await expect(order.getByRole('listitem').nth(1)).toContainText('let into what lies there');
  await setField(page, 'Trap: how far films below reach under it', '1 mm');
  // 20 000 less 38 × 38 mm²
  await expect.poll(() => cut('Harbour navy')).toContain('186 cm²');
  await page.getByRole('switch', { name: /^Glass/ }).click();
  await expect.poll(() => cut('Harbour navy')).toContain('184 cm²');
  await page.getByRole('switch', { name: /^Leave out/ }).click();
  await expect(order.getByRole('listitem').nth(1)).toContainText('is not cut');
  await stations(page).getByRole('link', { name: 'Lay up' }).click();
  await expect(page.getByText('1 item from 1 film (Harbour navy)')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/2 items from 2 films/)).toBeVisible();
  await saved(page);
  await page.reload();
  await stations(page).getByRole('link', { name: 'Build' }).click();
  await expect(order.getByRole('listitem').nth(1)).toContainText('let into what lies there');
});

test('films keep their place with marks, or are packed: lengths, words and Lay up follow', async ({ page }) => {
  await newJob(page, 'Places');
  await plate(page);
  await page.keyboard.press('3');
  await expect(page.getByText(/Each film is moved to the start of its roll.*only where Chalk white lies/)).toBeVisible();
  await page.getByRole('radio', { name: /^Keep place/ }).click();
  await expect(page.getByText(/nothing moves\. Packed, Chalk white would take less/)).toBeVisible();
  await page.getByRole('switch', { name: 'Place marks on Chalk white' }).click();
  await page.getByRole('combobox', { name: 'Shape of the marks' }).click();
  await page.getByRole('option', { name: 'Dot' }).click();
  await setField(page, 'Size of the marks', '6 mm');
  await expect(page.getByRole('region', { name: 'Order of laying' }).getByText('laid by its place marks')).toBeVisible();
  await stations(page).getByRole('link', { name: 'Lay up' }).click();
  const used = page.locator('div', { hasText: /^Used length/ }).last();
  await strip(page)
    .getByRole('button', { name: /Chalk white: use for new items/ })
    .click();
  const white = await used.textContent();
  await strip(page)
    .getByRole('button', { name: /Harbour navy: use for new items/ })
    .click();
  await expect(used).toHaveText(white ?? '');
});

test('dots on a fill are let in one by one or all; what cannot be weeded is named and thickened; the stack is pulled apart', async ({
  page,
}) => {
  await newJob(page, 'Dots');
  await plate(page);
  await setShape(page, '5', '5');
  await page.keyboard.press('Control+d');
  await page.keyboard.press('3');
  await expect(page.getByText('2 small parts lie on a film below')).toBeVisible();
  await page.getByRole('button', { name: 'Let in', exact: true }).first().click();
  await expect(page.getByText('1 let in by itself')).toBeVisible();
  await expect(page.getByText('One small part lies on a film below')).toBeVisible();
  await page.getByRole('slider', { name: 'Pull the films apart' }).press('Home');
  await expect(page.getByRole('slider', { name: 'Pull the films apart' })).toHaveAttribute('aria-valuenow', '0');
  await page.keyboard.press('1');
  await page.keyboard.press('Control+a');
  await page.getByRole('application', { name: 'Drawing' }).focus();
  await page.keyboard.press('3');
  await expect(page.getByRole('img', { name: 'Films from the surface up: Harbour navy, Chalk white' })).toBeVisible();
});

test('the shop’s hour and weeding rule stand in the quote; a job without films says so', async ({ page }) => {
  await newJob(page, 'Quote');
  await page.keyboard.press('3');
  await expect(page.getByRole('heading', { name: 'No film to build with' })).toBeVisible();
  await page.getByRole('link', { name: 'To Draw' }).click();
  await plate(page);
  await page.keyboard.press('3');
  const quote = page.locator('div', { hasText: /^Quote/ }).last();
  await expect(quote).toContainText('€');
  const before = Number.parseFloat((await quote.textContent())?.replace('Quote', '') ?? '');
  const job = page.url();
  await page.goto('/stock');
  await setField(page, 'Price of an hour', '96');
  await expect.poll(() => fieldValue(page, 'Price of an hour')).toBe(96);
  await page.goto(job);
  await expect.poll(async () => Number.parseFloat((await quote.textContent())?.replace('Quote', '') ?? '')).toBeGreaterThan(before);
  await page.goto('/stock');
  await setField(page, 'Price of an hour', '48');
});

test('a dot too small to be weeded is made thicker, joined by a bridge, cut from the film below, dropped', async ({ page }) => {
  await newJob(page, 'Specks');
  await plate(page);
  await page.keyboard.press('Control+d');
  await setShape(page, '1', '1');
  await setField(page, 'X', '223');
  await setField(page, 'Y', '150');
  await page.keyboard.press('3');
  const found = (n: number) => expect(page.getByRole('button', { name: `What cannot be weeded (${n})` })).toBeVisible();
  await found(1);
  for (const remedy of [/^Thicken by/, /^Cut from Harbour navy/, /^Drop it/]) {
    await page.getByRole('button', { name: remedy }).click();
    await found(0);
    await page.keyboard.press('Control+z');
    await found(1);
  }
  await page.getByRole('button', { name: 'Join by a bridge' }).click();
  await expect(page.getByText('Joined by a bridge. Undo takes it back.')).toBeVisible();
  // one piece with what it reaches, not a bar whose ends are cut through
  await stations(page).getByRole('link', { name: 'Lay up' }).click();
  await expect(page.getByText(/^Everything: 2 items from 2 films/)).toBeVisible();
});
