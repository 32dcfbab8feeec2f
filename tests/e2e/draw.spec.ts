/** The Draw station at work: exact sizes, films, groups, history, clipboard, keyboard. */
import { expect, test } from './shop.fixture.ts';
import { at, fieldValue, newJob, saved, setField, setShape, takeFilm, write } from './support.ts';

test('lettering at an exact size; undo and redo, also after a reload', async ({ page }) => {
  await newJob(page, 'Exact sizes');
  await takeFilm(page, 'Signal blue');
  await write(page, 'HIT');
  await setField(page, 'Height of capitals', '2 1/2 in');
  await expect(page.getByRole('textbox', { name: 'Height', exact: true })).toHaveValue('63.5');
  await setField(page, 'Width', '3*100');
  await expect.poll(() => fieldValue(page, 'Width')).toBe(300);
  const tall = await fieldValue(page, 'Height of capitals');
  expect(await fieldValue(page, 'Height')).toBeCloseTo(tall, 1);
  await setField(page, 'X', '12.34');
  await expect.poll(() => fieldValue(page, 'X')).toBe(12.34);
  await saved(page);

  await page.reload();
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
  await page.getByRole('application', { name: 'Drawing' }).click({ position: { x: 5, y: 300 } });
  await page.keyboard.press('Control+a');
  await expect.poll(() => fieldValue(page, 'X')).toBe(12.34);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(() => fieldValue(page, 'Height of capitals')).toBe(63.5);
  await page.keyboard.press('Control+y');
  await expect.poll(() => fieldValue(page, 'Width')).toBe(300);
  await saved(page);
});

test('boxes are drawn, moved by keys, grouped, duplicated, deleted, and brought back', async ({ page }) => {
  await newJob(page, 'Boxes');
  await takeFilm(page, 'Coal black');
  for (const [x0, x1] of [
    [0.2, 0.35],
    [0.5, 0.65],
  ] as const) {
    await page.keyboard.press('b');
    const [from, to] = [await at(page, x0, 0.35), await at(page, x1, 0.55)];
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y, { steps: 4 });
    await page.mouse.up();
  }
  await setField(page, 'Shape width', '120 mm');
  await expect.poll(() => fieldValue(page, 'Width')).toBe(120);
  const x = await fieldValue(page, 'X');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('ArrowLeft');
  await expect.poll(() => fieldValue(page, 'X')).toBeCloseTo(x + 9, 2);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Control+g');
  await expect(page.getByRole('button', { name: 'Group', exact: true }).first()).toBeVisible();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Group of 2');
  await page.keyboard.press('Control+d');
  await page.keyboard.press('Control+a');
  await expect(page.getByText('2 items').first()).toBeVisible();
  await page.keyboard.press('Delete');
  await expect(page.getByText('Take a film from Stock at the left')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('2 items').first()).toBeVisible();
  await saved(page);
});

test('an item is dragged and sized with the mouse; the numbers travel along', async ({ page }) => {
  await newJob(page, 'By hand');
  await takeFilm(page, 'Brass');
  await write(page, 'PIER', 0.35, 0.5);
  await saved(page);
  const frame = page.getByTestId('selection').locator('polygon').last();
  const box = await frame.boundingBox();
  if (!box) throw new Error('no frame');
  const [width, x] = [await fieldValue(page, 'Width'), await fieldValue(page, 'X')];
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 60, box.y + box.height / 2, { steps: 5 });
  await expect(page.getByText(/^→ /)).toBeVisible();
  await page.mouse.up();
  expect(await fieldValue(page, 'X')).toBeGreaterThan(x + 20);
  await page.mouse.move(box.x + box.width + 60, box.y);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width + 140, box.y - 30, { steps: 5 });
  await page.mouse.up();
  await expect.poll(() => fieldValue(page, 'Width')).toBeGreaterThan(width * 1.1);
  expect(await fieldValue(page, 'Letter width')).toBe(100);
});

test('a film is dragged onto an item, films are restacked, hidden and locked', async ({ page }) => {
  await newJob(page, 'Films');
  await takeFilm(page, 'Chalk white');
  await takeFilm(page, 'Burgundy');
  await write(page, 'INN', 0.35, 0.5);
  await expect(page.getByRole('combobox', { name: 'Cut from' })).toContainText('Burgundy');
  const item = await page.getByTestId('selection').locator('polygon').last().boundingBox();
  const bar = await page
    .locator('[data-film]')
    .filter({ hasText: 'Chalk white' })
    .getByRole('button', { name: /use for new items/ })
    .boundingBox();
  if (!item || !bar) throw new Error('nothing to drag');
  await page.mouse.move(bar.x + 30, bar.y + 10);
  await page.mouse.down();
  await page.mouse.move(item.x + item.width / 2, item.y + item.height / 2, { steps: 8 });
  await page.mouse.up();
  await expect(page.getByRole('combobox', { name: 'Cut from' })).toContainText('Chalk white');
  await expect(page.locator('[data-film]').first()).toContainText('Burgundy');
  const [top, low] = [await page.locator('[data-film]').first().boundingBox(), await page.locator('[data-film]').last().boundingBox()];
  if (!top || !low) throw new Error('no bars');
  await page.mouse.move(top.x + 40, top.y + 12);
  await page.mouse.down();
  await page.mouse.move(low.x + 40, low.y + low.height - 6, { steps: 8 });
  await page.mouse.up();
  await expect(page.locator('[data-film]').first()).toContainText('Chalk white');
  await page.getByRole('button', { name: 'Lock Chalk white' }).click();
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Delete');
  await expect(page.getByText('Nothing that can be deleted is selected.')).toBeVisible();
});

test('what is copied in one job is pasted in another, with its film', async ({ page }) => {
  await newJob(page, 'From here');
  await takeFilm(page, 'Buoy red');
  await write(page, 'COPY');
  await page.keyboard.press('Control+c');
  await saved(page);
  await newJob(page, 'To there');
  await page.keyboard.press('Control+v');
  await expect(page.getByLabel('Words', { exact: true })).toHaveValue('COPY');
  await expect(page.locator('[data-film]')).toContainText('Buoy red');
  await saved(page);
  // words and film came as one change, sent as one and undone as one
  const jobId = /jobs\/([^/]+)/.exec(page.url())?.[1] ?? '';
  const job = (await (await page.request.get(`/api/jobs/${jobId}`)).json()) as { revision: number };
  expect(job.revision).toBe(1);
  await page.keyboard.press('Control+z');
  await expect(page.locator('[data-film]')).toHaveCount(0);
  await saved(page);
});

test('keys of the drawing do nothing to what is selected there while another station is shown, and its words can be copied', async ({
  page,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await newJob(page, 'Elsewhere');
  await takeFilm(page, 'Buoy red');
  await write(page, 'STAYS');
  await page.keyboard.press('Control+c');
  await page.keyboard.press('4');
  const used = page.getByText('Used length').first();
  await expect(used).toBeVisible();
  for (const key of ['Control+x', 'Control+d', 'Control+Shift+g']) await page.keyboard.press(key);
  await page.evaluate(() => navigator.clipboard.writeText(''));
  await used.evaluate((words) => getSelection()?.selectAllChildren(words));
  await page.keyboard.press('Control+c');
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('Used length');
  await page.keyboard.press('Control+v');
  await expect(page.getByText('What you copied is pasted in Draw.')).toBeVisible();
  await page.keyboard.press('1');
  await expect(page.getByLabel('Words', { exact: true })).toHaveValue('STAYS');
  await page.keyboard.press('Control+a');
  await expect(page.getByLabel('Words', { exact: true })).toHaveValue('STAYS');
  await page.keyboard.press('Control+v');
  await page.keyboard.press('Control+a');
  await expect(page.getByTestId('selection').locator('polygon[stroke-dasharray]')).toHaveCount(2);
});

test('two pages on one job: both changes are kept, and the other page follows', async ({ page, context }) => {
  await newJob(page, 'Shared');
  await takeFilm(page, 'Slate');
  await write(page, 'ONE', 0.3, 0.3);
  await saved(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.locator('[data-film]')).toContainText('Slate');
  await context.setOffline(true);
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('status').filter({ hasText: 'Not saved' })).toBeVisible();
  // the other page writes on while it is fetching what it missed: nothing of that may be lost
  await other.route('**/changes?since=*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 700));
    await route.continue();
  });
  await context.setOffline(false);
  await saved(page);
  await write(other, 'TWO', 0.3, 0.7);
  await expect(other.getByLabel('Words', { exact: true })).toHaveValue('TWO');
  await saved(other);
  await saved(page);
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Control+a');
  await expect(page.getByText('2 items').first()).toBeVisible();
  await other.keyboard.press('Control+a');
  await expect(other.getByText('2 items').first()).toBeVisible();
});

test('a page that lost the server while it was loading works out its lettering once the server is back', async ({ page, context }) => {
  await newJob(page, 'Bad line');
  await takeFilm(page, 'Slate');
  await write(page, 'ONE', 0.3, 0.3);
  await saved(page);
  const other = await context.newPage();
  let away = true;
  let refused = 0;
  await context.route(/assets\/(engine|harfbuzz|hb|offset|derive)[^/]*\.(js|wasm)$/, (route) => {
    if (!away) return route.continue();
    refused += 1;
    return route.abort();
  });
  await other.goto(page.url());
  await expect.poll(() => refused).toBeGreaterThan(0);
  await expect(other.locator('[data-film]')).toContainText('Slate');
  away = false;
  await other.keyboard.press('Control+a');
  await expect(other.getByTestId('selection')).toBeVisible();
  // and what is asked after that as well
  await write(other, 'TWO', 0.3, 0.7);
});

test('two shapes are joined and cut up, each way shown before it is applied', async ({ page }) => {
  await newJob(page, 'Joining');
  await takeFilm(page, 'Samphire green');
  for (const [key, x0, x1] of [
    ['b', 0.2, 0.45],
    ['o', 0.35, 0.6],
  ] as const) {
    await page.keyboard.press(key);
    const [from, to] = [await at(page, x0, 0.35), await at(page, x1, 0.6)];
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y, { steps: 4 });
    await page.mouse.up();
  }
  await page.keyboard.press('Control+a');
  const card = page.getByRole('complementary', { name: 'Ticket' });
  await expect(card.getByRole('button', { name: 'Split', exact: true }).locator('path')).toHaveCount(3);
  await card.getByRole('button', { name: 'Split', exact: true }).click();
  await expect(page.getByText('3 items').first()).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+a');
  await card.getByRole('button', { name: 'Knock out of back' }).click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Box');
  await expect(page.getByRole('button', { name: 'Cut check: 0 findings' })).toBeVisible();
});

test('items are distributed by a pitch and aligned, with the overall size said before', async ({ page }) => {
  await newJob(page, 'Pegs');
  await takeFilm(page, 'Slate');
  await page.keyboard.press('b');
  const p = await at(page, 0.3, 0.6);
  await page.mouse.click(p.x, p.y);
  await setShape(page, '16', '30');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  for (let k = 0; k < 3; k++) await page.keyboard.press('Control+d');
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Align and distribute' }).click();
  await page.getByRole('radio', { name: /Edge pitch/ }).click();
  await setField(page, 'Distance', '16 + 2');
  await expect(page.getByText('70 mm')).toBeVisible();
  await page.getByRole('button', { name: 'Distribute', exact: true }).click();
  await page.getByRole('button', { name: 'Lower edges' }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(70);
  await expect.poll(() => fieldValue(page, 'Height')).toBe(30);
  await saved(page);
});
