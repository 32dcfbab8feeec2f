/** The Trace station by hand: the ground lifted, the clipping outline, colours named and merged, one colour, centre lines. */
import type { Page } from '@playwright/test';
import { writePng } from '../../demo/hull-picture.ts';
import { fourInks, moving, sixteenBits } from './odd-pictures.ts';
import { expect, test } from './shop.fixture.ts';
import { fieldValue, leaveField, newJob, saved, setField, writeOut } from './support.ts';

const choose = (page: Page, name: string): Promise<void> => page.getByRole('radio', { name, exact: true }).click();

/** Waits until what was asked last is shown. */
async function settled(page: Page): Promise<void> {
  await page.waitForTimeout(400);
  await expect(page.getByText('Shown at screen size; placed at full size.')).toBeVisible({ timeout: 30_000 });
}

const figure = async (page: Page, name: string): Promise<number> =>
  Number(
    (await page.getByRole('complementary', { name: 'Ticket' }).getByText(name, { exact: true }).first().locator('..').innerText())
      .split('\n')
      .at(-1),
  );

/** A navy disc and a red bar on cream, 240 by 160 pixels. */
async function bring(page: Page): Promise<void> {
  const png = writePng(240, 160, (x, y) =>
    Math.hypot(x - 80, y - 80) < 50 ? [22, 50, 92] : x > 150 && x < 220 && y > 60 && y < 100 ? [190, 40, 40] : [244, 236, 214],
  );
  await page.getByLabel('File to bring in').setInputFiles({ name: 'mark.png', mimeType: 'image/png', buffer: png });
  await expect(page.getByText('240 × 160')).toBeVisible();
  await setField(page, 'Width', '240');
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('2');
  await expect(page.getByTestId('traced')).toBeVisible({ timeout: 30_000 });
  await settled(page);
}

test('the ground is lifted; what is left gives a clipping outline as large as it is', async ({ page }) => {
  await newJob(page, 'Edge');
  await bring(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(2);
  await page.getByRole('button', { name: 'Ground', exact: true }).click();
  await page.getByRole('switch', { name: 'Lift from the border inwards' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Clipping outline from what is left' }).click();
  await expect(page.getByText('The picture is shown within its outline')).toBeVisible({ timeout: 20_000 });
  await page.keyboard.press('1');
  await page.getByRole('application', { name: 'Drawing' }).click({ position: { x: 30, y: 30 } });
  await page.getByRole('button', { name: /^Edge of mark/ }).click();
  // from the disc's left side at 30 px to the bar's right one at 220 px, one px being one mm
  await expect.poll(async () => Math.abs((await fieldValue(page, 'Width')) - 190)).toBeLessThan(2);
  await expect.poll(async () => Math.abs((await fieldValue(page, 'Height')) - 100)).toBeLessThan(2);
  // also in a file the picture lies within its outline only
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('Escape');
  const svg = (await writeOut(page, 'Write the file')).toString();
  const data = /href="(data:image[^"]+)"/.exec(svg)?.[1] ?? '';
  const alphas = await page.evaluate(async (url) => {
    const image = new Image();
    image.src = url;
    await image.decode();
    const context = new OffscreenCanvas(image.width, image.height).getContext('2d');
    context?.drawImage(image, 0, 0);
    return [
      [5, 5],
      [80, 80],
      [185, 80],
      [140, 80],
    ].map(([x = 0, y = 0]) => context?.getImageData(x, y, 1, 1).data[3]);
  }, data);
  expect(alphas).toEqual([0, 255, 255, 0]);
  await page.keyboard.press('Control+z');
  await saved(page);
});

test('colours are named on the picture and merged; dark parts alone and centre lines are traced; the picture is cropped', async ({
  page,
}) => {
  await newJob(page, 'By hand');
  await bring(page);
  await page.getByRole('button', { name: 'Name a colour on the picture' }).click();
  const layer = await page.getByTestId('pick-layer').boundingBox();
  if (!layer) throw new Error('no original');
  await page.mouse.click(layer.x + (layer.width * 185) / 240, layer.y + layer.height / 2);
  await expect(page.getByText(/colours named by hand/)).toBeVisible();
  await page.getByRole('button', { name: 'Name a colour on the picture' }).click();
  await settled(page);
  await page.getByRole('button', { name: 'Look at #be2828' }).click();
  await expect(page.getByLabel('Pixels within reach')).toHaveCount(0);
  await page.getByRole('slider', { name: 'Reach of #be2828' }).fill('10');
  await expect(page.getByLabel('Pixels within reach')).toBeVisible();
  await settled(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(2);
  await page.getByRole('button', { name: /^Merge into #16325c/ }).click();
  await settled(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(1);
  await page.getByRole('button', { name: 'Part them again' }).click();
  await settled(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(2);
  await choose(page, 'What is dark, as one colour');
  await settled(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(1);
  await choose(page, 'The middle of dark lines, for pens and engraving');
  await settled(page);
  await page.getByRole('button', { name: 'Trace onto the drawing' }).click();
  await expect(page.getByText('The trace lies where the picture was')).toBeVisible({ timeout: 20_000 });
  await page.keyboard.press('1');
  await expect.poll(() => fieldValue(page, 'Height')).toBeLessThan(80);
  await page.keyboard.press('2');
  await choose(page, 'Every colour');
  await page.getByRole('button', { name: 'Straighten and crop' }).click();
  await page.getByRole('button', { name: 'Crop', exact: true }).click();
  const whole = await page.getByTestId('pick-layer').boundingBox();
  if (!whole) throw new Error('no original');
  await page.mouse.move(whole.x + 2, whole.y + 2);
  await page.mouse.down();
  await page.mouse.move(whole.x + (whole.width * 140) / 240, whole.y + whole.height - 2, { steps: 4 });
  await page.mouse.up();
  await settled(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(1);
  await page.getByRole('button', { name: 'The whole picture' }).click();
  await settled(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(2);
  await saved(page);
});

test('a picture that was enlarged by repeating pixels is traced as the small one it was, looked at and placed', async ({ page }) => {
  await newJob(page, 'Blocks');
  const share = (x: number, y: number): number => Math.min(1, Math.max(0, 28.5 - Math.hypot(x - 49.5, y - 34.5)));
  const blocks = writePng(1200, 840, (x, y) => {
    const s = share(Math.floor(x / 12), Math.floor(y / 12));
    return [255 - 233 * s, 255 - 205 * s, 255 - 163 * s];
  });
  await page.getByLabel('File to bring in').setInputFiles({ name: 'blocks.png', mimeType: 'image/png', buffer: blocks });
  await expect(page.getByText('1200 × 840')).toBeVisible();
  await leaveField(page);
  await page.keyboard.press('2');
  await settled(page);
  await expect.poll(() => figure(page, 'Colours')).toBe(1);
  await expect.poll(() => figure(page, 'Nodes')).toBe(4);
  await page.getByRole('button', { name: 'Trace onto the drawing' }).click();
  await expect(page.getByRole('button', { name: 'Trace again and replace' })).toBeVisible({ timeout: 30_000 });
  await page.keyboard.press('1');
  await page.keyboard.press('Control+a');
  const ticket = page.getByRole('complementary', { name: 'Ticket' });
  await expect(ticket.getByText('Nodes', { exact: true }).locator('..')).toContainText('4');
  await saved(page);
});

test('a film of Stock stands beside each colour and is taken; what is clear is told; holes of the one colour are filled', async ({
  page,
}) => {
  await newJob(page, 'Films and holes');
  const png = writePng(200, 160, (x, y) => {
    const r = Math.hypot(x - 100, y - 80);
    return r < 60 && r > 30 ? [21, 41, 77] : [255, 255, 255];
  });
  await page.getByLabel('File to bring in').setInputFiles({ name: 'ring.png', mimeType: 'image/png', buffer: png });
  await expect(page.getByText('200 × 160')).toBeVisible();
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press('2');
  await expect(page.getByTestId('traced')).toBeVisible({ timeout: 30_000 });
  await settled(page);
  await expect(page.getByText('nothing, it is solid')).toBeVisible();
  await expect(page.getByText('Harbour navy, in Stock')).toBeVisible();
  await page.getByRole('button', { name: /^Look at #/ }).click();
  await page.getByRole('button', { name: /^Take Harbour navy from Stock/ }).click();
  await expect(page.getByRole('complementary', { name: 'Film strip' }).getByText('Harbour navy')).toBeVisible();
  await expect(page.getByText('Harbour navy, in Stock')).toHaveCount(0);
  await choose(page, 'What is dark, as one colour');
  await settled(page);
  const ring = await figure(page, 'Nodes');
  await page.getByRole('switch', { name: 'Keep holes' }).click();
  await settled(page);
  expect(await figure(page, 'Nodes')).toBe(ring / 2);
  await page.keyboard.press('Control+z');
  await settled(page);
  await expect(page.getByRole('switch', { name: 'Keep holes' })).toBeChecked();
  expect(await figure(page, 'Nodes')).toBe(ring);
  await saved(page);
});

test('pictures in four inks, of sixteen bits, of two frames are traced as they are seen; heads that lie are refused', async ({ page }) => {
  test.setTimeout(120_000);
  await newJob(page, 'Odd pictures');
  const bringIn = (name: string, mimeType: string, buffer: Buffer): Promise<void> =>
    page.getByLabel('File to bring in').setInputFiles({ name, mimeType, buffer });
  for (const [name, mimeType, buffer] of [
    ['sixteen.png', 'image/png', sixteenBits(64, 48, [22, 50, 92])],
    ['four-inks.jpg', 'image/jpeg', fourInks()],
    ['moving.gif', 'image/gif', moving()],
  ] as const) {
    await bringIn(name, mimeType, buffer);
    await expect(page.getByText('64 × 48')).toBeVisible();
    await leaveField(page);
    await page.keyboard.press('2');
    await settled(page);
    await expect(page.getByTestId('traced').locator('path')).toHaveCount(1);
    const fill = await page.getByTestId('traced').locator('path').getAttribute('fill');
    // of a moving one the first frame; the four inks of navy come out a little bluer
    expect(Number.parseInt(fill?.slice(1, 3) ?? '', 16)).toBeLessThan(60);
    expect(Number.parseInt(fill?.slice(5, 7) ?? '', 16)).toBeGreaterThan(70);
    await page.keyboard.press('1');
    await page.getByRole('application', { name: 'Drawing' }).waitFor();
    await page.keyboard.press('Escape');
  }
  await bringIn('huge.png', 'image/png', sixteenBits(64, 48, [22, 50, 92], [60_000, 60_000]));
  await expect(page.getByText('“huge.png”: The picture has 60000 by 60000 pixels')).toBeVisible();
  await bringIn('longer.png', 'image/png', sixteenBits(64, 48, [22, 50, 92], [64, 4000]));
  await expect(page.getByText('“longer.png”: the picture is cut short or damaged')).toBeVisible();
  await expect(page.getByText('64 × 48')).toHaveCount(0);
  await saved(page);
});
