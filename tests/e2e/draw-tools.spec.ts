/** The further tools of the Draw station: treatments, bends, curves and nodes, guides and snapping, measuring, pictures to scale. */
import type { Page } from '@playwright/test';
import { writePng } from '../../demo/hull-picture.ts';
import { expect, test } from './shop.fixture.ts';
import { addTreatment, at, click, drag, fieldValue, leaveField, newJob, saved, setField, takeFilm, write } from './support.ts';

const cutLength = async (page: Page, film: string): Promise<string> =>
  (await page.locator('[data-film]').filter({ hasText: film }).innerText()).split('\n').at(-1) ?? '';

test('a ring and a shade in another film, kept as a style, given to another item, set into plain shapes', async ({ page }) => {
  await newJob(page, 'Treated');
  await takeFilm(page, 'Harbour navy');
  await takeFilm(page, 'Marigold yellow');
  await write(page, 'QUAY', 0.3, 0.35);
  expect(await cutLength(page, 'Harbour navy')).toMatch(/^0/);
  await addTreatment(page, 'Ring');
  await setField(page, 'Ring distance', '6');
  // the fields keep to the letters; what is seen with the ring stands beside them
  const letters = { w: await fieldValue(page, 'Width'), h: await fieldValue(page, 'Height') };
  const seen = async (): Promise<number[]> =>
    ((await page.getByText(/^As seen/).textContent()) ?? '').match(/\d+(\.\d+)?/g)?.map(Number) ?? [];
  await expect.poll(async () => ((await seen())[0] ?? 0) - letters.w).toBeCloseTo(12, 1);
  await expect.poll(async () => ((await seen())[1] ?? 0) - letters.h).toBeCloseTo(12, 1);
  await addTreatment(page, 'Shade');
  await setField(page, 'Shade depth', '12 mm');
  await page.getByRole('radio', { name: 'Flush' }).click();
  await expect.poll(() => cutLength(page, 'Harbour navy')).not.toMatch(/^0/);
  await page.getByRole('button', { name: 'Styles' }).click();
  await page.getByLabel('Name of the style').fill('Harbour ring');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(page.getByText('is kept for all jobs')).toBeVisible();
  await write(page, 'PIER', 0.3, 0.7);
  await page.getByRole('button', { name: 'Styles' }).click();
  await page.getByRole('button', { name: 'Harbour ring', exact: true }).click();
  await expect(page.locator('[data-treatment]')).toHaveCount(2);
  await page.getByRole('checkbox', { name: 'Ring is on' }).uncheck();
  await page.getByRole('button', { name: 'Set', exact: true }).click();
  await expect(page.getByText(/2 items/).first()).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled();
});

test('lettering on a circle: radius by number and by its handle, still editable words', async ({ page }) => {
  await newJob(page, 'Round');
  await takeFilm(page, 'Deep teal');
  await write(page, 'HARBOUR', 0.5, 0.6);
  await addTreatment(page, 'Bend');
  await page.getByRole('radio', { name: 'Circle' }).click();
  await setField(page, 'Radius', '250');
  const wide = await expect
    .poll(() => fieldValue(page, 'Height'))
    .toBeGreaterThan(0)
    .then(() => fieldValue(page, 'Width'));
  const handle = page.getByRole('slider', { name: 'Radius and middle of the words' });
  const box = await handle.boundingBox();
  if (!box) throw new Error('no handle');
  await page.mouse.move(box.x + 6, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + 6, box.y + 66, { steps: 5 });
  await page.mouse.up();
  await expect.poll(() => fieldValue(page, 'Radius')).toBeLessThan(249);
  await expect.poll(() => fieldValue(page, 'Width')).not.toBe(wide);
  await page.getByLabel('Words', { exact: true }).fill('HARBOUR\nOFFICE');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('HARBOUR OFFICE');
  await page.keyboard.press('Escape');
  await saved(page);
});

test('a curve is drawn and closed, its nodes worked on by mouse, number and key', async ({ page }) => {
  await newJob(page, 'Curves');
  await takeFilm(page, 'Coal black');
  await page.keyboard.press('c');
  await drag(page, [0.3, 0.3], [0.4, 0.2]);
  await click(page, 0.6, 0.35);
  await click(page, 0.5, 0.6);
  await click(page, 0.3, 0.3);
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Shape');
  await page.keyboard.press('n');
  await click(page, 0.6, 0.35);
  await expect(page.getByText('1 of 3')).toBeVisible();
  await setField(page, 'Node X', '700');
  await expect.poll(() => fieldValue(page, 'Node X')).toBe(700);
  await page.getByRole('radio', { name: 'Even' }).click();
  await expect(page.getByRole('radio', { name: 'Even' })).toBeChecked();
  await leaveField(page);
  await page.keyboard.press('ArrowRight');
  await expect.poll(() => fieldValue(page, 'Node X')).toBe(701);
  await page.keyboard.press('Delete');
  await expect(page.getByText('Click or mark out nodes')).toBeVisible();
  await page.keyboard.press('Control+z');
  await saved(page);
});

test('a guide by number; a box snaps to it and says why; what is measured stays as a dimension line and follows', async ({ page }) => {
  await newJob(page, 'Exact');
  await takeFilm(page, 'Slate');
  await page.getByRole('button', { name: 'Guides' }).click();
  await page.getByRole('button', { name: 'Upright', exact: true }).click();
  await setField(page, 'Upright guide', '400');
  await leaveField(page);
  await page.keyboard.press('b');
  await drag(page, [0.55, 0.4], [0.75, 0.6]);
  await setField(page, 'Shape width', '150');
  await setField(page, 'X', '405');
  await leaveField(page);
  const frame = await page.getByTestId('selection').locator('polygon').last().boundingBox();
  if (!frame) throw new Error('no frame');
  const [x, y] = [frame.x + frame.width / 2, frame.y + frame.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 5, y + 2, { steps: 3 });
  await expect(page.getByText(/guide/).last()).toBeVisible();
  await page.mouse.up();
  await expect.poll(() => fieldValue(page, 'X')).toBe(400);
  const placed = await page.getByTestId('selection').locator('polygon').last().boundingBox();
  if (!placed) throw new Error('no frame');
  await page.keyboard.press('m');
  await page.mouse.move(placed.x + 1, placed.y + 1);
  await page.mouse.down();
  await page.mouse.move(placed.x + placed.width - 1, placed.y + 1, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByTestId('measured')).toHaveText('150 mm');
  await page.getByRole('button', { name: 'Keep as dimension line' }).click();
  await expect(page.getByText('It follows what it measures.', { exact: false })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.mouse.click(x - 4, y);
  await setField(page, 'Shape width', '180');
  await page.getByRole('application', { name: 'Drawing' }).click({ position: { x: 60, y: 60 } });
  await page.getByRole('button', { name: /^Dimension / }).click();
  await expect(page.getByText('180 mm').first()).toBeVisible();
  await saved(page);
});

test('a picture is scaled by a known length, and another one by the same scale', async ({ page }) => {
  await newJob(page, 'Picture');
  const png = writePng(400, 200, (x, y) => (x > 100 && x < 300 && y > 90 && y < 110 ? [20, 20, 20] : [200, 210, 220]));
  const place = (name: string): Promise<void> =>
    page.getByLabel('File to bring in').setInputFiles({ name, mimeType: 'image/png', buffer: png });
  await place('quay.png');
  await expect(page.getByText('400 × 200')).toBeVisible();
  const width = await fieldValue(page, 'Width');
  await page.keyboard.press('k');
  const frame = { a: await at(page, 0.3, 0.5), b: await at(page, 0.7, 0.5) };
  await page.mouse.click(frame.a.x, frame.a.y);
  await expect(page.getByLabel('Loupe')).toBeVisible();
  await page.mouse.click(frame.b.x, frame.b.y);
  await setField(page, 'Real length', '3 m');
  const percent = Number((await page.getByTestId('known-percent').innerText()).replace(' %', ''));
  await page.getByRole('button', { name: 'Scale the picture' }).click();
  await page.keyboard.press('s');
  await expect.poll(async () => Math.abs((100 * (await fieldValue(page, 'Width'))) / width / percent - 1)).toBeLessThan(0.002);
  const scaled = await fieldValue(page, 'Width');
  await page.getByRole('switch', { name: /Locked/ }).click();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await place('mole.png');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('mole');
  await page.getByRole('button', { name: 'Use last scale' }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(scaled, 1);
  await saved(page);
});

test('the weld family shows its results before; parts and copies are made; items are found by size', async ({ page }) => {
  await newJob(page, 'Many');
  await takeFilm(page, 'Burgundy');
  await page.keyboard.press('b');
  await drag(page, [0.3, 0.3], [0.4, 0.4]);
  await setField(page, 'Shape width', '80');
  await page.getByRole('button', { name: 'Repeat' }).click();
  await setField(page, 'Further copies', '2');
  await setField(page, 'Step to the right', '50');
  await page.getByRole('button', { name: 'Make the copies' }).click();
  await leaveField(page);
  await page.keyboard.press('Control+a');
  await expect(page.getByText('3 items').first()).toBeVisible();
  const weld = page.getByRole('button', { name: 'Weld', exact: true });
  await expect(weld.locator('svg path')).toBeVisible();
  await weld.click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Weld of 3');
  await expect.poll(() => fieldValue(page, 'Width')).toBe(180);
  await page.keyboard.press('Escape');
  await write(page, 'FERRY', 0.3, 0.7);
  await setField(page, 'Height of capitals', '60');
  await page.getByRole('application', { name: 'Drawing' }).click({ position: { x: 60, y: 60 } });
  await page.getByLabel('Find an item').fill('capitals 60 mm');
  await page.getByRole('button', { name: /^FERRY/ }).click();
  await expect(page.getByLabel('Words', { exact: true })).toHaveValue('FERRY');
  await page.getByRole('button', { name: 'All small letters' }).click();
  await expect(page.getByLabel('Words', { exact: true })).toHaveValue('ferry');
  await saved(page);
});

test('a customer’s SVG comes in at true size, its colours on films, with a report of what was changed', async ({ page }) => {
  await newJob(page, 'Customer file');
  await takeFilm(page, 'Buoy red');
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100"><script>alert(1)</script>
    <style>.r{fill:#c4281f}</style><rect class="r" x="10" y="10" width="80" height="50"/>
    <path d="M20 80H120" fill="none" stroke="#0000ff" stroke-width="6"/>
    <text x="120" y="40" font-family="Anton" font-size="20" fill="#c4281f">INN</text><text y="9" font-family="Nowhere Sans">gone</text></svg>`;
  await page.getByLabel('File to bring in').setInputFiles({ name: 'logo.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(svg) });
  await expect(page.getByText('Import report')).toBeVisible();
  await expect(page.getByText('200 mm × 100 mm')).toBeVisible();
  await expect(page.getByText('A script in the file was left out')).toBeVisible();
  await expect(page.getByText('Strokes were turned into shapes')).toBeVisible();
  await expect(page.getByText('Text was turned into outlines.')).toBeVisible();
  await expect(page.getByText('The font Nowhere Sans is not there; its words came in as lettering')).toBeVisible();
  await expect.poll(() => fieldValue(page, 'Width')).toBeGreaterThan(125);
  await expect(page.getByText('1 item without a film')).toBeVisible();
  await page.getByLabel('File to bring in').waitFor({ state: 'detached' });
  await page.keyboard.press('Escape');
  await page
    .getByLabel('File to bring in')
    .setInputFiles({ name: 'torn.svg', mimeType: 'image/svg+xml', buffer: Buffer.from('no drawing') });
  await expect(page.getByText(/This is not an SVG file/)).toBeVisible();
  await saved(page);
});

test('the drawing is painted also while changes come in every frame', async ({ page }) => {
  await newJob(page, 'Steady');
  await takeFilm(page, 'Coal black');
  await write(page, 'TIDE');
  const pictures = await page.evaluate(async () => {
    const host = document.querySelector('[data-drawing]') as HTMLElement;
    const canvas = host.querySelector('canvas') as HTMLCanvasElement;
    const seen = new Set<string>();
    for (let k = 0; k < 24; k++) {
      host.dispatchEvent(new WheelEvent('wheel', { deltaX: 12, shiftKey: true, bubbles: true, cancelable: true }));
      await new Promise(requestAnimationFrame);
      const { data } = (canvas.getContext('2d') as CanvasRenderingContext2D).getImageData(0, canvas.height / 2, canvas.width, 1);
      seen.add(Array.from(data.filter((_, i) => i % 16 === 0)).join(' '));
    }
    return seen.size;
  });
  expect(pictures).toBeGreaterThan(6);
});
