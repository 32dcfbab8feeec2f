/** Jobs of the demo made from nothing, with the mouse and the keyboard, at exact sizes. */
import type { Page } from '@playwright/test';
import { hullPicture, HULL_PICTURE } from '../../demo/hull-picture.ts';
import { expect, test } from './shop.fixture.ts';
import { addTreatment, drag, fieldValue, leaveField, newJob, saved, setField, setShape, takeFilm, write } from './support.ts';

const choose = (page: Page, name: string): Promise<void> => page.getByRole('radio', { name, exact: true }).click();

async function setSurface(page: Page, width: string, height: string): Promise<void> {
  await setField(page, 'Surface width', width);
  await setField(page, 'Surface height', height);
  await leaveField(page);
  await page.keyboard.press('f');
}

async function takeFont(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: /^Font: / }).click();
  await page.getByLabel('Find a font').fill(name);
  await page
    .getByRole('button', { name: new RegExp(name) })
    .last()
    .click();
  await expect(page.getByRole('button', { name: new RegExp(`^Font: ${name}`) })).toBeVisible();
}

/** A box or an oval with the mouse, then its sizes and its place by number. */
async function shape(page: Page, key: 'b' | 'o', width: number, height: number, x: number, y: number): Promise<void> {
  await page.keyboard.press('Escape');
  await page.keyboard.press(key);
  await drag(page, [0.06, 0.1], [0.14, 0.2]);
  await setShape(page, String(width), String(height));
  await choose(page, 'Anchor middle');
  await setField(page, 'X', String(x));
  await setField(page, 'Y', String(y));
  await leaveField(page);
}

const noFilmMissing = (page: Page): Promise<void> => expect(page.getByText('without a film')).toHaveCount(0);

test('the transom name: an arch, a ring and a block shade in two films, and the same mirrored for the inside', async ({ page }) => {
  await newJob(page, 'Transom by hand');
  await setSurface(page, '1400', '900');
  await takeFilm(page, 'Harbour navy');
  await takeFilm(page, 'Marigold yellow');
  await write(page, 'Marigold', 0.5, 0.4);
  await takeFont(page, 'Lobster');
  await setField(page, 'Height of capitals', '95');
  await addTreatment(page, 'Bend');
  await choose(page, 'Arch');
  await setField(page, 'Rise', '60');
  await addTreatment(page, 'Ring');
  await setField(page, 'Ring distance', '6');
  await addTreatment(page, 'Shade');
  await choose(page, 'Block');
  await setField(page, 'Shade direction', '-50');
  await setField(page, 'Shade depth', '14');
  await choose(page, 'Anchor middle');
  await setField(page, 'X', '700');
  await setField(page, 'Y', '650');
  await leaveField(page);
  const width = await fieldValue(page, 'Width');
  await page.keyboard.press('Control+d');
  const pixels = (): Promise<string> =>
    page
      .locator('[data-drawing] canvas')
      .first()
      .evaluate((one) => (one as HTMLCanvasElement).toDataURL());
  await page.keyboard.press('x');
  await setField(page, 'X', '700');
  await setField(page, 'Y', '250');
  await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(width, 2);
  await expect.poll(() => fieldValue(page, 'Turn')).toBe(0);
  await leaveField(page);
  const mirrored = await pixels();
  await page.keyboard.press('x');
  await expect.poll(pixels).not.toBe(mirrored);
  await page.keyboard.press('x');
  await expect.poll(pixels).toBe(mirrored);
  for (const film of ['Harbour navy', 'Marigold yellow'])
    await expect(page.locator('[data-film]').filter({ hasText: film })).not.toContainText(/\b0 m\b/);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+y');
  await page.keyboard.press('Control+a');
  await expect(page.getByText('2 items').first()).toBeVisible();
  await noFilmMissing(page);
  await saved(page);
});

test('the round sign: words over and under a circle round an anchor of welded shapes with a flush shade', async ({ page }) => {
  await newJob(page, 'Round sign by hand');
  await setSurface(page, '600', '600');
  for (const film of ['Harbour navy', 'Brass', 'Chalk white']) await takeFilm(page, film);
  // the anchor: arms and ring are ovals out of ovals, with a shank and a stock
  const hollow = async (): Promise<void> => {
    await page.keyboard.press('Control+a');
    await expect(page.getByText('2 items').first()).toBeVisible();
    await page.getByRole('button', { name: 'Knock out of back' }).click();
    await expect(page.getByText('2 items')).toHaveCount(0);
  };
  await shape(page, 'o', 220, 190, 300, 300);
  await shape(page, 'o', 196, 190, 300, 326);
  await hollow();
  await expect.poll(() => fieldValue(page, 'Height')).toBeLessThan(150);
  await shape(page, 'b', 20, 190, 300, 305);
  await shape(page, 'b', 100, 18, 300, 360);
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Weld', exact: true }).click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Weld of 3');
  await shape(page, 'o', 56, 56, 300, 424);
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Weld', exact: true }).click();
  await shape(page, 'o', 30, 30, 300, 424);
  await hollow();
  await page.getByLabel('Name', { exact: true }).fill('Anchor');
  await page.keyboard.press('Enter');
  await addTreatment(page, 'Shade');
  await choose(page, 'Block');
  await setField(page, 'Shade direction', '-45');
  await setField(page, 'Shade depth', '10');
  await choose(page, 'Flush');
  await page.locator('[data-treatment]').getByRole('combobox').first().click();
  await page.getByRole('option', { name: /Brass/ }).click();
  await expect(page.locator('[data-film]').filter({ hasText: 'Brass' })).toContainText(/\d+ cm²|0\.\d+ m²/);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await write(page, 'HARBOUR OFFICE', 0.5, 0.5);
  await page.getByLabel('Words', { exact: true }).fill('HARBOUR OFFICE\nSALTMARSH');
  await leaveField(page);
  await takeFont(page, 'Rokkitt');
  await setField(page, 'Height of capitals', '48');
  await addTreatment(page, 'Bend');
  await choose(page, 'Circle');
  await setField(page, 'Radius', '198');
  await page.getByRole('switch', { name: /Both/ }).first().click();
  await expect.poll(() => fieldValue(page, 'Height')).toBeGreaterThan(430);
  await choose(page, 'Anchor middle');
  await setField(page, 'X', '300');
  await page.keyboard.press('Escape');
  await page.locator('[data-film]').filter({ hasText: 'Harbour navy' }).click();
  await shape(page, 'o', 540, 540, 300, 300);
  await page.keyboard.press('Control+a');
  await expect(page.getByText('3 items').first()).toBeVisible();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(540);
  await noFilmMissing(page);
  await saved(page);
});

test('the pilot boat: a picture to scale by two fenders, the name on it, a dimension line between them', async ({ page }) => {
  const { widthPx, heightPx, fenderPx, fenderDistanceMm } = HULL_PICTURE;
  await newJob(page, 'Pilot boat by hand');
  await takeFilm(page, 'Chalk white');
  await page.getByLabel('File to bring in').setInputFiles({ name: 'hull.png', mimeType: 'image/png', buffer: hullPicture() });
  await expect(page.getByText(`${widthPx} × ${heightPx}`)).toBeVisible();
  await leaveField(page);
  const ends = async (): Promise<{ x: number; y: number }[]> => {
    const frame = await page.getByTestId('selection').locator('polygon').last().boundingBox();
    if (!frame) throw new Error('no picture');
    return fenderPx.map((px) => ({ x: frame.x + (frame.width * px) / widthPx, y: frame.y + (frame.height * 540) / heightPx }));
  };
  const [port, starboard] = await ends();
  await page.keyboard.press('k');
  await page.mouse.click(port?.x ?? 0, port?.y ?? 0);
  await page.mouse.click(starboard?.x ?? 0, starboard?.y ?? 0);
  await setField(page, 'Real length', `${fenderDistanceMm / 1000} m`);
  await page.getByRole('button', { name: 'Scale the picture' }).click();
  await page.keyboard.press('s');
  const wanted = (widthPx * fenderDistanceMm) / (fenderPx[1] - fenderPx[0]);
  await expect.poll(async () => Math.abs((await fieldValue(page, 'Width')) / wanted - 1)).toBeLessThan(0.01);
  await leaveField(page);
  await page.keyboard.press('f');
  const [from, to] = await ends();
  await page.getByRole('switch', { name: /Locked/ }).click();
  await page.keyboard.press('m');
  await page.mouse.move(from?.x ?? 0, from?.y ?? 0);
  await page.mouse.down();
  await page.mouse.move(to?.x ?? 0, (to?.y ?? 0) + 1, { steps: 4 });
  await page.mouse.up();
  await expect
    .poll(async () => Math.abs(parseFloat((await page.getByTestId('measured').innerText()).replace(/\s/g, '')) / 2400 - 1))
    .toBeLessThan(0.02);
  await page.getByRole('button', { name: 'Keep as dimension line' }).click();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await write(page, 'PILOT', 0.5, 0.4);
  await setField(page, 'Height of capitals', '360');
  await setField(page, 'Letter space', '40');
  await choose(page, 'Anchor middle');
  await setField(page, 'X', '2620');
  await setField(page, 'Y', '1420');
  await expect.poll(() => fieldValue(page, 'Height')).toBeGreaterThan(355);
  await expect.poll(() => fieldValue(page, 'X')).toBe(2620);
  await noFilmMissing(page);
  await saved(page);
});

test('the peg labels: boxes at an exact pitch welded with a rail into one strip', async ({ page }) => {
  await newJob(page, 'Peg labels by hand');
  await setSurface(page, '560', '160');
  await takeFilm(page, 'Signal blue');
  await shape(page, 'b', 38, 18, 75, 69);
  await setField(page, 'Corners taken off by', '2');
  await page.getByRole('button', { name: 'Repeat', exact: true }).click();
  await setField(page, 'Further copies', '9');
  await choose(page, 'Pitch: from one edge to the same edge of the next');
  await setField(page, 'Step to the right', '46');
  await page.getByRole('button', { name: 'Make the copies' }).click();
  await shape(page, 'b', 452, 4, 282, 69);
  await page.keyboard.press('Control+a');
  await expect(page.getByText('11 items').first()).toBeVisible();
  await page.getByRole('button', { name: 'Weld', exact: true }).click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Weld of 11');
  await expect.poll(() => fieldValue(page, 'Width')).toBe(452);
  await expect.poll(() => fieldValue(page, 'Height')).toBe(18);
  await expect(page.getByRole('button', { name: 'Cut check: 0 findings' })).toBeVisible();
  await saved(page);
});
