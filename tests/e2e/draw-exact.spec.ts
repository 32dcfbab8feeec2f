/** The Draw station's exact work: every kind of treatment, shape tool, repeat, alignment, fit, single letters, node work, own fonts. */
import type { Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from './shop.fixture.ts';
import {
  addTreatment,
  at,
  box,
  click,
  drag,
  fieldValue,
  leaveField,
  newJob,
  saved,
  setField,
  setShape,
  takeFilm,
  write,
} from './support.ts';

const filmFigures = async (page: Page, film: string): Promise<string> =>
  (await page.locator('[data-film]').filter({ hasText: film }).innerText()).split('\n').slice(1).join(' ');

const choose = (page: Page, name: string): Promise<void> => page.getByRole('radio', { name, exact: true }).click();

/** Does a thing and waits until the film's area and length have become others. */
async function changes(page: Page, film: string, act: () => Promise<unknown>): Promise<void> {
  const before = await filmFigures(page, film);
  await act();
  await expect.poll(() => filmFigures(page, film)).not.toBe(before);
}

const nothingFound = (page: Page): Promise<void> => expect(page.getByRole('button', { name: 'Cut check: 0 findings' })).toBeVisible();

/** Outlines are closed and cross nothing; how thin they may be is the film's matter. */
async function nothingBroken(page: Page): Promise<void> {
  await page.getByRole('button', { name: /^Cut check/ }).click();
  for (const kind of ['Crossings', 'Open outlines', 'Doubled lines', 'Tiny parts'])
    await expect(page.getByRole('region', { name: kind })).toHaveCount(0);
  await page.keyboard.press('Escape');
}

test('all kinds of shade, meeting and two-tone edge give pieces that can be cut', async ({ page }) => {
  await newJob(page, 'Shades');
  await takeFilm(page, 'Harbour navy');
  await takeFilm(page, 'Marigold yellow');
  await write(page, 'QUAY', 0.3, 0.5);
  await addTreatment(page, 'Shade');
  for (const kind of ['Drop', 'Converging', 'Cast', 'Block']) {
    await changes(page, 'Harbour navy', () => choose(page, kind));
    await nothingBroken(page);
  }
  for (const meeting of ['Tucked', 'Gapped', 'Flush', 'Full']) {
    await changes(page, 'Harbour navy', () => choose(page, meeting));
    await nothingBroken(page);
  }
  await page.getByRole('button', { name: 'Remove Shade' }).click();
  await addTreatment(page, 'Two-tone');
  await page.waitForTimeout(1500);
  await changes(page, 'Marigold yellow', () => setField(page, 'Wave height', '20'));
  await changes(page, 'Harbour navy', () => choose(page, 'Straight'));
  await nothingBroken(page);
  await page.keyboard.press('Escape');
  await saved(page);
});

test('lettering follows a drawn line; two-tone takes a drawn edge; a circle has a spread and an own lower circle', async ({ page }) => {
  await newJob(page, 'Bent');
  await takeFilm(page, 'Harbour navy');
  await takeFilm(page, 'Buoy red');
  await page.keyboard.press('c');
  await drag(page, [0.15, 0.7], [0.3, 0.4]);
  await drag(page, [0.7, 0.6], [0.85, 0.8]);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Curve');
  await write(page, 'FOLLOW THE TIDE', 0.2, 0.3);
  const straight = await fieldValue(page, 'Height');
  await addTreatment(page, 'Bend');
  await choose(page, 'Drawn line');
  await page.getByRole('button', { name: 'Take the drawn line' }).click();
  await expect.poll(() => fieldValue(page, 'Height')).toBeGreaterThan(straight * 1.2);
  // the line is a helper now: not cut, and the words go where it goes
  await expect(page.getByText('Follows “Curve”.')).toBeVisible();
  const low = await fieldValue(page, 'Y');
  await page.getByRole('button', { name: 'Show it' }).click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Curve');
  const was = await fieldValue(page, 'Y');
  await setField(page, 'Y', String(was + 40));
  await page.keyboard.press('Escape');
  await page.getByRole('application', { name: 'Drawing' }).focus();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Tab');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue(/FOLLOW/);
  await expect.poll(() => fieldValue(page, 'Y')).toBeCloseTo(low + 40, 0);
  await page.getByRole('button', { name: 'Bend drawn line' }).click();
  await choose(page, 'Circle');
  await page.getByLabel('Words', { exact: true }).fill('FOLLOW\nTHE TIDE');
  await setField(page, 'Radius', '300');
  await page.getByRole('switch', { name: 'Spread over an angle' }).click();
  await setField(page, 'Spread', '160');
  await page.waitForTimeout(1500);
  await expect.poll(() => fieldValue(page, 'Width')).toBeGreaterThan(700);
  await setField(page, 'Spread', '100');
  await expect.poll(() => fieldValue(page, 'Width')).toBeLessThan(660);
  await page.getByRole('switch', { name: 'Own circle for the lower words' }).click();
  const height = await fieldValue(page, 'Height');
  await setField(page, 'Lower radius', '450');
  await expect.poll(() => fieldValue(page, 'Height')).toBeGreaterThan(height + 100);
  await addTreatment(page, 'Two-tone');
  await choose(page, 'Drawn');
  await page
    .getByRole('button', { name: /Take the drawn line/ })
    .last()
    .click();
  await page.keyboard.press('Escape');
  await saved(page);
});

test('every shape tool draws at an exact size; colours are flattened, one compound is made and split again', async ({ page }) => {
  await newJob(page, 'Shapes');
  await takeFilm(page, 'Harbour navy');
  await takeFilm(page, 'Buoy red');
  const names = { p: 'Polygon', r: 'Star', i: 'Line', a: 'Arc', h: 'Drawn line' };
  for (const [k, [key, name]] of Object.entries(names).entries()) {
    await page.keyboard.press('Escape');
    await page.keyboard.press(key);
    const x = 0.15 + 0.15 * k;
    if (key === 'h') {
      const [a, b] = [await at(page, x, 0.6), await at(page, x + 0.12, 0.6)];
      await page.mouse.move(a.x, a.y);
      await page.mouse.down();
      for (let s = 1; s <= 20; s++) await page.mouse.move(a.x + ((b.x - a.x) * s) / 20, a.y + 30 * Math.sin(s / 3));
      await page.mouse.up();
    } else await drag(page, [x, 0.6], [x + 0.06, 0.55]);
    await expect(page.getByLabel('Name', { exact: true })).toHaveValue(name);
    if (key === 'p' || key === 'r' || key === 'a') {
      await setField(page, 'Radius', '80');
      if (key === 'p') await setField(page, 'Corners', '6');
      if (key === 'p') await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(2 * 80 * Math.cos(Math.PI / 6), 1);
      await leaveField(page);
    }
  }
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Delete');
  await page.keyboard.press('b');
  await drag(page, [0.3, 0.3], [0.5, 0.5]);
  await setShape(page, '300', '200');
  await leaveField(page);
  await page.keyboard.press('Escape');
  await page.locator('[data-film]').filter({ hasText: 'Harbour navy' }).click();
  await page.keyboard.press('o');
  await drag(page, [0.45, 0.45], [0.6, 0.6]);
  await leaveField(page);
  await page.keyboard.press('Control+a');
  await expect(page.getByText('2 items').first()).toBeVisible();
  const before = await filmFigures(page, 'Harbour navy');
  const flatten = page.getByRole('button', { name: 'Flatten colours' });
  await expect(flatten.locator('svg path').first()).toBeVisible();
  await flatten.click();
  await expect(page.getByText('2 items').first()).toBeVisible();
  await expect.poll(() => filmFigures(page, 'Harbour navy')).not.toBe(before);
  await page.keyboard.press('Control+z');
  await expect.poll(() => filmFigures(page, 'Harbour navy')).toBe(before);
  await leaveField(page);
  await page.keyboard.press('Control+a');
  const compound = page.getByRole('button', { name: 'One compound' });
  await expect(compound.locator('svg path').first()).toBeVisible();
  await compound.click();
  await page.getByRole('button', { name: 'Split into parts' }).click();
  await expect(page.getByText(/\d items/).first()).toBeVisible();
  await saved(page);
});

test('copies in a grid and round a centre; alignment to the first item and to a guide; equal gaps are hinted', async ({ page }) => {
  await newJob(page, 'Exact copies');
  await takeFilm(page, 'Slate');
  await page.keyboard.press('b');
  await drag(page, [0.3, 0.4], [0.4, 0.5]);
  await setShape(page, '60', '40');
  await page.getByRole('button', { name: 'Repeat', exact: true }).click();
  await choose(page, 'In a grid');
  await setField(page, 'Columns', '4');
  await setField(page, 'Rows', '3');
  await choose(page, 'Gap: the clear way between copies');
  await setField(page, 'Step to the right', '10');
  await setField(page, 'Step upward', '5');
  await page.getByRole('button', { name: 'Make the copies' }).hover();
  await page.getByRole('button', { name: 'Make the copies' }).click();
  await leaveField(page);
  await page.keyboard.press('Control+a');
  await expect(page.getByText('12 items').first()).toBeVisible();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(4 * 60 + 3 * 10);
  await expect.poll(() => fieldValue(page, 'Height')).toBe(3 * 40 + 2 * 5);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+a');
  await choose(page, 'Round a centre');
  await setField(page, 'Further copies', '5');
  await setField(page, 'Step of the turn', '60');
  await setField(page, 'Centre X', '500');
  await setField(page, 'Centre Y', '150');
  await page.getByRole('button', { name: 'Make the copies' }).click();
  await leaveField(page);
  await page.keyboard.press('Control+a');
  await expect(page.getByText('6 items').first()).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+a');
  await choose(page, 'Along a line');
  await setField(page, 'Further copies', '2');
  await setField(page, 'Step to the right', '90');
  await setField(page, 'Step upward', '17');
  await page.getByRole('button', { name: 'Make the copies' }).click();
  await leaveField(page);
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Align and distribute' }).click();
  await choose(page, 'To the item selected first');
  await page.getByRole('button', { name: 'Lower edges' }).click();
  await expect.poll(() => fieldValue(page, 'Height')).toBe(40);
  await page.getByRole('button', { name: 'Guides through middle' }).click();
  await leaveField(page);
  await page.keyboard.press('ArrowUp');
  await choose(page, 'To the nearest guide');
  await page.getByRole('button', { name: 'Centres, one above another' }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(60);
  await page.keyboard.press('Control+z');
  await saved(page);
});

test('an equal gap is named at the pointer', async ({ page }) => {
  await newJob(page, 'Gaps');
  await takeFilm(page, 'Slate');
  for (const x of [100, 220, 420]) {
    await page.keyboard.press('b');
    await drag(page, [0.1, 0.3], [0.2, 0.4]);
    await setShape(page, '80', '60');
    await setField(page, 'X', String(x));
    await setField(page, 'Y', '300');
    await leaveField(page);
    if (x !== 420) await page.keyboard.press('Escape');
  }
  const frame = await page.getByTestId('selection').locator('polygon').last().boundingBox();
  if (!frame) throw new Error('no frame');
  const scale = frame.width / 80;
  const [x, y] = [frame.x + frame.width / 2, frame.y + frame.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 77 * scale, y + 1, { steps: 5 });
  await expect(page.getByText(/equal gap/i).last()).toBeVisible();
  await page.mouse.up();
  await expect.poll(() => fieldValue(page, 'X')).toBe(340);
});

test('lettering is fitted into a shape and between guides, justified, and single letters are set by hand', async ({ page }) => {
  await newJob(page, 'Fitted');
  await takeFilm(page, 'Slate');
  await page.keyboard.press('b');
  await drag(page, [0.2, 0.3], [0.7, 0.6]);
  await setShape(page, '500', '200');
  await leaveField(page);
  await page.keyboard.press('Escape');
  await write(page, 'DOCK', 0.2, 0.5);
  await page.getByRole('button', { name: 'Fit into a room' }).click();
  await page.getByRole('button', { name: 'Into the shape below' }).click();
  await page.waitForTimeout(1500);
  await expect
    .poll(async () => Math.max((await fieldValue(page, 'Width')) / 500, (await fieldValue(page, 'Height')) / 200))
    .toBeCloseTo(1, 3);
  const y = await fieldValue(page, 'Y');
  await page.keyboard.press('Escape');
  await page.getByRole('application', { name: 'Drawing' }).click({ position: { x: 60, y: 60 } });
  await page.getByRole('button', { name: 'Guides', exact: true }).click();
  for (const place of [y + 20, y + 170]) {
    await page.getByRole('button', { name: 'Level', exact: true }).click();
    const guides = page.getByRole('textbox', { name: 'Level guide' });
    const values = await guides.evaluateAll((list) => list.map((one) => Number((one as HTMLInputElement).value)));
    const fresh = place === y + 20 ? 0 : values.findIndex((value) => Math.abs(value - (y + 20)) > 1);
    await guides.nth(fresh).fill(String(place));
    await guides.nth(fresh).press('Enter');
    await leaveField(page);
  }
  await page.getByLabel('Find an item').fill('DOCK');
  await page.getByRole('button', { name: /^DOCK/ }).click();
  await page.getByRole('button', { name: 'Fit into a room' }).click();
  await page.getByRole('button', { name: 'Between guides' }).click();
  await expect.poll(() => fieldValue(page, 'Height')).toBeCloseTo(150, 1);
  await page.getByLabel('Words', { exact: true }).fill('DOCK\nMASTERS YARD');
  await page.getByRole('radio', { name: /Justified/ }).click();
  await leaveField(page);
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('caret')).toBeAttached();
  await page.keyboard.press('Home');
  await expect(page.getByText(/^Letter “/)).toBeVisible();
  const width = await fieldValue(page, 'Height');
  await setField(page, 'Size of the letter', '200');
  await setField(page, 'Turn of the letter', '15');
  await expect.poll(() => fieldValue(page, 'Height')).not.toBe(width);
  await saved(page);
});

test('nodes: broken, joined and redrawn by the card; an own font comes in by the page', async ({ page }) => {
  await newJob(page, 'Nodes');
  await takeFilm(page, 'Coal black');
  await page.keyboard.press('c');
  for (const [x, y] of [
    [0.3, 0.3],
    [0.4, 0.28],
    [0.5, 0.31],
    [0.6, 0.3],
    [0.6, 0.6],
    [0.3, 0.6],
    [0.3, 0.3],
  ] as const)
    await click(page, x, y);
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Shape');
  await page.keyboard.press('n');
  await drag(page, [0.25, 0.2], [0.65, 0.4]);
  await expect(page.getByText('4 of 6')).toBeVisible();
  await page.getByRole('button', { name: 'Redraw span' }).click();
  await expect(page.getByText(/Redrawn; [\d.]+ mm off at most/)).toBeVisible();
  await click(page, 0.6, 0.6);
  await page.getByRole('button', { name: 'Break', exact: true }).click();
  await page.waitForTimeout(1500);
  await expect(page.getByRole('button', { name: 'Cut check: 1 finding' })).toBeVisible();
  await drag(page, [0.55, 0.55], [0.65, 0.65]);
  await page.getByRole('button', { name: 'Join ends' }).click();
  await nothingFound(page);
  await page.keyboard.press('Escape');
  await write(page, 'Own', 0.3, 0.8);
  await page.getByRole('button', { name: /^Font: / }).click();
  const file = join(import.meta.dirname, '..', '..', 'assets', 'fonts', 'anton-latin-400-normal.woff');
  await page.getByLabel('Font file').setInputFiles({ name: 'Shop Own.woff', mimeType: 'font/woff', buffer: readFileSync(file) });
  await expect(page.getByRole('button', { name: /^Font: Shop Own|^Font: Anton/ })).toBeVisible();
  await saved(page);
});

test('the centre of a lettering circle is set by number, dragged and snapped; a drawn edge waits for its line', async ({ page }) => {
  await newJob(page, 'Centres');
  await takeFilm(page, 'Buoy red');
  await page.keyboard.press('o');
  await drag(page, [0.6, 0.4], [0.7, 0.6]);
  await setField(page, 'X', '700');
  await setField(page, 'Y', '200');
  const [width, height] = [await fieldValue(page, 'Width'), await fieldValue(page, 'Height')];
  await page.keyboard.press('Escape');
  await write(page, 'HARBOUR');
  await addTreatment(page, 'Bend');
  await page.getByRole('radio', { name: 'Circle' }).click();
  await setField(page, 'Centre of the circle, X', '300');
  await setField(page, 'Centre of the circle, Y', '250');
  expect(await fieldValue(page, 'Centre of the circle, X')).toBe(300);
  const grip = page.getByRole('slider', { name: 'Centre of the circle' });
  const from = (await grip.boundingBox())!;
  await page.mouse.move(from.x + from.width / 2, from.y + from.height / 2);
  await page.mouse.down();
  const target = { x: 700 + width / 2, y: 200 + height / 2 };
  // in steps towards the oval's middle, corrected by what the field says
  for (let i = 0; i < 12; i++) {
    const now = { x: await fieldValue(page, 'Centre of the circle, X'), y: await fieldValue(page, 'Centre of the circle, Y') };
    if (Math.hypot(now.x - target.x, now.y - target.y) < 1e-6) break;
    const at = (await grip.boundingBox())!;
    const perMm = Math.abs(at.x + at.width / 2 - (from.x + from.width / 2)) / Math.max(1e-6, Math.abs(now.x - 300)) || 0.5;
    await page.mouse.move(at.x + at.width / 2 + (target.x - now.x) * perMm, at.y + at.height / 2 - (target.y - now.y) * perMm, {
      steps: 3,
    });
  }
  await page.mouse.up();
  expect(await fieldValue(page, 'Centre of the circle, X')).toBeCloseTo(target.x, 2);
  expect(await fieldValue(page, 'Centre of the circle, Y')).toBeCloseTo(target.y, 2);
  await addTreatment(page, 'Two-tone');
  await page.getByRole('radio', { name: 'Drawn', exact: true }).click();
  await expect(page.getByText('Take the line of the edge; until then the letters are whole.')).toBeVisible();
  await saved(page);
});

test('another font keeps the height, and the width when that is wanted', async ({ page }) => {
  await newJob(page, 'Another font');
  await takeFilm(page, 'Buoy red');
  await write(page, 'HARBOUR');
  await setField(page, 'Width', '305');
  await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(305, 2);
  await page.getByRole('button', { name: /^Font:/ }).click();
  await page.getByLabel('Find a font').fill('Alfa Slab');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Font: Alfa Slab One' })).toBeVisible();
  await page.getByRole('button', { name: 'Keep the width instead' }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(305, 1);
});

test('copies stay a live row: pitch changed in one step, pieces added, set; undo and reload keep it', async ({ page }) => {
  await newJob(page, 'Peg row');
  await takeFilm(page, 'Deep teal');
  // words that were just written can be repeated at once
  await write(page, 'Berth 12');
  await expect(page.getByRole('button', { name: 'Repeat', exact: true })).toBeVisible();
  await page.keyboard.press('Delete');
  await box(page, 0.3, '40', '20');
  await page.getByRole('button', { name: 'Repeat', exact: true }).click();
  await setField(page, 'Further copies', '4');
  await setField(page, 'Step to the right', '50');
  await page.getByRole('button', { name: 'Make a live row' }).last().click();
  await expect(page.getByRole('textbox', { name: 'Pieces', exact: true })).toHaveValue('5');
  const width = (): Promise<number> => fieldValue(page, 'Width');
  await expect.poll(width).toBeCloseTo(4 * 50 + 40, 2);
  await setField(page, 'Pitch', '50.05');
  await expect.poll(width).toBeCloseTo(4 * 50.05 + 40, 2);
  await page.getByRole('radio', { name: 'Gap: the clear way between neighbours' }).last().click();
  await expect(page.getByRole('textbox', { name: 'Gap', exact: true })).toHaveValue('10.05');
  await setField(page, 'Pieces', '7');
  await expect.poll(width).toBeCloseTo(6 * 50.05 + 40, 2);
  await setField(page, 'Pieces', '3');
  await expect.poll(width).toBeCloseTo(2 * 50.05 + 40, 2);
  await page.keyboard.press('Control+z');
  await expect.poll(width).toBeCloseTo(6 * 50.05 + 40, 2);
  await saved(page);
  await page.reload();
  await page.getByRole('application', { name: 'Drawing' }).focus();
  await page.keyboard.press('Control+a');
  await setField(page, 'Gap', '5');
  await expect.poll(width).toBeCloseTo(6 * 45 + 40, 2);
  await page.getByRole('button', { name: 'Set: make them pieces of their own' }).click();
  await expect(page.getByRole('heading', { name: '7 items' }).or(page.getByRole('button', { name: '7 items' }))).toBeVisible();
  // what is distributed can stay a row too
  await page.getByRole('button', { name: 'Align and distribute', exact: true }).click();
  await setField(page, 'Distance', '2');
  await page.getByRole('button', { name: 'Make a live row' }).first().click();
  await expect.poll(width).toBeCloseTo(6 * 42 + 40, 2);
});
