/** Lay up: filling the material by grid and nest, pieces moved by hand, sheets, weeding, what a machine says that lies in it. */
import type { Page } from '@playwright/test';
import { writePng } from '../../demo/hull-picture.ts';
import { expect, test } from './shop.fixture.ts';
import { box, newJob, saved, setField, takeFilm, write } from './support.ts';

const figure = async (page: Page, name: string): Promise<number> => {
  const said = await page.getByText(name, { exact: true }).locator('..').innerText();
  return Number(/(-?[\d.]+)(?= mm|\s*$)/.exec(said.replace(name, ''))?.[1]);
};

async function layUp(page: Page): Promise<void> {
  await page.getByRole('link', { name: /Lay up/ }).click();
  await expect(page.getByText(/^Everything: /)).toBeVisible();
}

/** A box of a size, drawn in the middle. */
const sheetsCount = (page: Page) => page.getByText(/^Used length, \d+ sheets$/);

/** The first piece of the first of three sheets of 500 × 610 mm goes to the free end of the third by the mouse, and back. */
async function dragToThird(page: Page): Promise<void> {
  const used = (): Promise<number> => figure(page, 'Used length, 3 sheets');
  const before = await used();
  const surface = page.getByRole('application', { name: 'Rolls with the work on them' });
  await surface.focus();
  await page.keyboard.press('f');
  const { x, y, width, height } = (await surface.boundingBox())!;
  // two sheets above, the third below the first, 90 mm between them, all of them fitted with 64 px round them
  const [wide, high] = [2 * 500 + 90, 2 * 610 + 90];
  const scale = Math.min((width - 128) / wide, (height - 128) / high);
  const at = (mmX: number, mmY: number) => [x + width / 2 + scale * (mmX - wide / 2), y + height / 2 - scale * (mmY - high / 2)] as const;
  await page.mouse.move(...at(50, 700 + 35));
  await page.mouse.down();
  await page.mouse.move(...at(200, 400), { steps: 4 });
  await page.mouse.move(...at(430, 300), { steps: 4 });
  await page.mouse.up();
  await expect.poll(used).toBeGreaterThan(before + 150);
  await page.keyboard.press('Control+z');
  await expect.poll(used).toBeCloseTo(before, 0);
}

test('copies fill sheets in a grid, with what is left over; sheets go out one by one; a reload and undo keep it', async ({ page }) => {
  await newJob(page, 'Mooring tags');
  await takeFilm(page, 'Deep teal');
  await box(page, 0.3, '80', '50');
  await saved(page);
  await layUp(page);
  await page.getByRole('combobox', { name: /Deep teal/ }).click();
  await page.getByRole('option', { name: /610 mm wide/ }).click();
  await page.getByRole('switch', { name: 'Weed box' }).click();
  await page.getByRole('switch', { name: 'Sheets of a length of their own' }).click();
  await setField(page, 'Length of a sheet', '500');
  await page.getByRole('radio', { name: 'Grid' }).click();
  await setField(page, 'Gap between copies', '10');
  // (590 + 10) / 60 across, (480 + 10) / 90 along
  await expect(page.getByText('Fit on a sheet', { exact: true }).locator('..')).toContainText('50');
  await expect.poll(() => figure(page, 'Longer for one more row')).toBeCloseTo(50, 1);
  await page.getByRole('switch', { name: 'Fill to the end of the sheet' }).click();
  await setField(page, 'Copies', '120');
  await expect(sheetsCount(page)).toContainText('3 sheets');
  await dragToThird(page);
  await page.getByRole('combobox', { name: 'Rows' }).click();
  await page.getByRole('option', { name: 'Every other row head to tail' }).click();
  await expect(sheetsCount(page)).toContainText('3 sheets');
  await page.getByRole('radio', { name: 'Grain: no turns' }).click();
  await page.getByRole('button', { name: /Cut check/ }).click();
  await expect(page.getByText(/the grain of this material allows no turns/).first()).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('radio', { name: 'No grain: any turn' }).click();
  await saved(page);
  await page.reload();
  await expect(sheetsCount(page)).toContainText('3 sheets');
  await page.getByRole('link', { name: /Send/ }).click();
  await expect(page.getByRole('button', { name: 'Cut 3 sheets' })).toBeVisible();
  // nothing is selected here by its key, and not the page's words instead
  await page.keyboard.press('Control+a');
  expect(await page.evaluate(() => String(getSelection()))).toBe('');
  await page.getByRole('button', { name: 'Hold', exact: true }).click();
  await expect(page.locator('[data-run]').filter({ hasText: 'Mooring tags' })).toHaveCount(3);
  await expect(page.locator('[data-run]').filter({ hasText: 'sheet 2 of 3' }).first()).toBeVisible();
});

test('parts are nested live, laid, moved by keys and by hand, locked, put back; overlaps are told; nothing moves on the drawing', async ({
  page,
}) => {
  await newJob(page, 'Net loft letters');
  await takeFilm(page, 'Deep teal');
  await write(page, 'LOFT', 0.25, 0.4);
  await setField(page, 'Height of capitals', '90');
  await saved(page);
  await layUp(page);
  await page.getByRole('combobox', { name: /Deep teal/ }).click();
  await page.getByRole('option', { name: /610 mm wide/ }).click();
  await page.getByRole('switch', { name: 'Weed box' }).click();
  const before = await figure(page, 'Used length');
  await page.getByRole('radio', { name: 'Nest' }).click();
  await page.getByRole('combobox', { name: 'What moves as one' }).click();
  await page.getByRole('option', { name: 'Every outline by itself' }).click();
  await expect(page.getByText('4 parts, 4 to lay')).toBeVisible();
  await page.getByRole('textbox', { name: 'Copies of LOFT 2' }).fill('3');
  await page.keyboard.press('Enter');
  await expect(page.getByText('4 parts, 6 to lay')).toBeVisible();
  await page.getByRole('button', { name: 'Nest', exact: true }).click();
  await expect(page.getByText('Share of it used')).toBeVisible();
  await page.waitForTimeout(1500);
  const stop = page.getByRole('button', { name: 'Stop', exact: true });
  // few pieces are soon settled: the search may end by itself meanwhile
  if (await stop.isVisible()) await stop.click({ timeout: 3000 }).catch(() => undefined);
  // the measure line tells of what is shown: first of the nest, then of the sheet that it became
  const told = page.getByText(/used by this nest$/);
  const [length] = /^[\d.]+/.exec((await told.textContent()) ?? '') ?? [];
  expect(Number(length)).toBeLessThan(0.6 * before);
  // neither another station nor a reload loses what was found, and it goes on from there
  await page.getByRole('link', { name: /Send/ }).click();
  await page.getByRole('link', { name: /Lay up/ }).click();
  await expect(told).toBeVisible();
  await page.getByRole('link', { name: /Send/ }).click();
  await saved(page);
  await page.reload();
  await page.getByRole('link', { name: /Lay up/ }).click();
  await expect(told).toHaveText(new RegExp(`^${length}`));
  await page.getByRole('button', { name: 'Go on' }).click();
  await stop.click({ timeout: 3000 }).catch(() => undefined);
  const found = await figure(page, 'Length');
  expect(await told.textContent()).toContain(`${found}`);
  await page.getByRole('button', { name: 'Lay them so' }).click();
  await expect(told).toHaveCount(0);
  // what was told of it is what is used of the roll
  await expect.poll(() => figure(page, 'Used length')).toBeCloseTo(found, 0);
  await expect(page.getByText('6 pieces lie nested. Undo puts them back.')).toBeVisible();
  await expect.poll(() => figure(page, 'Used length')).toBeLessThan(0.6 * before);
  const nested = await figure(page, 'Used length');
  // all chosen, moved by the arrow keys along the material
  await page.getByRole('application', { name: 'Rolls with the work on them' }).focus();
  await page.keyboard.press('Control+a');
  await expect(page.getByText('6 pieces chosen')).toBeVisible();
  await page.keyboard.press('Shift+ArrowRight');
  await expect.poll(() => figure(page, 'Used length')).toBeCloseTo(nested + 10, 1);
  await page.keyboard.press('Control+z');
  await expect.poll(() => figure(page, 'Used length')).toBeCloseTo(nested, 1);
  // one piece is taken with the mouse and put onto its neighbours
  const surface = await page.getByRole('application', { name: 'Rolls with the work on them' }).boundingBox();
  if (!surface) throw new Error('no surface');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Lock in place' }).isDisabled();
  const choose = async (): Promise<{ x: number; y: number }> => {
    for (let y = 0.15; y < 0.95; y += 0.04)
      for (let x = 0.1; x < 0.6; x += 0.05) {
        const at = { x: surface.x + surface.width * x, y: surface.y + surface.height * y };
        await page.mouse.click(at.x, at.y);
        if (await page.getByText('1 piece chosen').isVisible()) return at;
      }
    throw new Error('no piece under the pointer');
  };
  const at = await choose();
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  await page.mouse.move(at.x + 12, at.y + 6, { steps: 4 });
  await page.mouse.move(at.x + 24, at.y + 14, { steps: 4 });
  await page.mouse.up();
  await page.getByRole('button', { name: /Cut check/ }).click();
  await expect(page.getByText(/lie on one another on the material/).first()).toBeVisible();
  // the place is gone to, near enough to be seen
  const zoom = page.getByRole('button', { name: /^Zoom \d+ percent/ });
  const percent = async (): Promise<number> => Number(/\d+/.exec((await zoom.getAttribute('aria-label')) ?? '')?.[0]);
  const whole = await percent();
  await page.getByRole('button', { name: 'Show the place' }).first().click();
  await expect.poll(percent).toBeGreaterThan(1.5 * whole);
  await page.getByRole('button', { name: 'Fit', exact: true }).click();
  await expect.poll(percent).toBe(whole);
  await page.getByRole('button', { name: /Cut check|finding/ }).click();
  // by a click it is taken behind the others, and by two steps back where it lay
  await page
    .getByRole('button', { name: /Take (one of them aside|them apart)/ })
    .first()
    .click();
  await expect(page.getByText(/lie on one another on the material/)).toHaveCount(0);
  await expect.poll(() => figure(page, 'Used length')).toBeGreaterThan(nested);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(() => figure(page, 'Used length')).toBeCloseTo(nested, 1);
  // without the mouse: the next piece, then none
  await page.getByRole('application', { name: 'Rolls with the work on them' }).focus();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Tab');
  await expect(page.getByText('1 piece chosen')).toBeVisible();
  await page.keyboard.press('Escape');
  await choose();
  await page.getByRole('button', { name: 'Lock in place' }).click();
  await expect(page.getByRole('button', { name: 'Unlock' })).toBeVisible();
  await page.getByRole('application', { name: 'Rolls with the work on them' }).focus();
  await page.keyboard.press('Shift+ArrowUp');
  await expect.poll(() => figure(page, 'Used length')).toBeCloseTo(nested, 1);
  // another rule: the nest is old, and renewed from where it was
  await setField(page, 'Gap between parts', '12');
  await expect(page.getByText(/This nest was found for other parts/)).toBeVisible();
  await page.getByRole('button', { name: 'Renew' }).click();
  await expect(page.getByText('Share of it used')).toBeVisible();
  await page.getByRole('button', { name: 'Put back' }).click();
  await saved(page);
  await page.keyboard.press('1');
  await page.keyboard.press('Control+a');
  await expect(page.getByText('1 item').first()).toHaveCount(0);
});

test('a picture nests as its rectangle until it is cut out; weed lines and what a machine says are there by a click', async ({ page }) => {
  await newJob(page, 'Corner stickers');
  await takeFilm(page, 'Gloss white');
  const corner = writePng(160, 160, (x, y) =>
    x > 3 && y < 156 && y > 3 && x < 156 && (x < 44 || y > 116) ? [22, 50, 92] : [244, 236, 214],
  );
  await page.getByLabel('File to bring in').setInputFiles({ name: 'corner.png', mimeType: 'image/png', buffer: corner });
  await expect(page.getByText('160 × 160')).toBeVisible();
  await page.getByRole('combobox', { name: 'Goes on' }).click();
  await page.getByRole('option', { name: /Print: Gloss white/ }).click();
  await setField(page, 'Width', '160');
  await saved(page);
  const nest = async (): Promise<number> => {
    await layUp(page);
    const kind = page.getByRole('radio', { name: 'Nest' });
    if (!(await kind.isChecked())) await kind.click();
    await page.getByRole('textbox', { name: 'Copies of corner' }).fill('4');
    await page.keyboard.press('Enter');
    await expect(page.getByText('1 part, 4 to lay')).toBeVisible();
    await page.getByRole('button', { name: /^(Nest|Renew)$/ }).click();
    await expect(page.getByText('Share of it used')).toBeVisible();
    await page.waitForTimeout(2500);
    const stop = page.getByRole('button', { name: 'Stop', exact: true });
    // few pieces are soon settled: the search may end by itself meanwhile
    if (await stop.isVisible()) await stop.click({ timeout: 3000 }).catch(() => undefined);
    return figure(page, 'Length');
  };
  // what lies in the cutter is asked and taken: wide enough for one corner and a part of another
  await layUp(page);
  await page.getByRole('combobox', { name: 'Ask a machine what lies in it' }).click();
  await page.getByRole('option', { name: 'Bench cutter 610' }).click();
  await expect(page.getByText('Bench cutter 610 says: 610 mm wide, 50.00 m long.')).toBeVisible();
  await page.getByRole('button', { name: 'Lay up on that' }).click();
  await expect(page.getByText(/^As Bench cutter 610 says/)).toBeVisible();
  await setField(page, 'Margin', '200');
  const boxes = await nest();
  // one beside the other along: four of 160 and three gaps of 5, between margins
  expect(Math.abs(boxes - 655 - 2 * 200)).toBeLessThan(6);
  await page.getByRole('button', { name: 'Put back' }).click();
  await page.keyboard.press('1');
  await page.keyboard.press('Control+a');
  await page.getByRole('button', { name: 'Edge cut round the selection' }).click();
  await expect(page.getByText(/has a ground of its own/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Lift the ground' }).first().click();
  await expect(page.getByText(/has a ground of its own/)).toHaveCount(0, { timeout: 30_000 });
  await saved(page);
  await page.getByRole('link', { name: /Lay up/ }).click();
  await page.getByRole('switch', { name: 'Marks for the camera' }).click();
  expect(await nest()).toBeLessThan(boxes - 100);
});

test('a bar longer than the roll is divided: seams are dragged, panels go out one by one, the fitting plan is written', async ({
  page,
}) => {
  await newJob(page, 'Long bar');
  await takeFilm(page, 'Deep teal');
  await box(page, 0.2, '3000', '1300');
  await saved(page);
  await layUp(page);
  await page.getByRole('combobox', { name: /Deep teal/ }).click();
  await page.getByRole('option', { name: /610 mm wide/ }).click();
  await page.getByRole('radio', { name: 'Panels' }).click();
  await page.getByRole('combobox', { name: 'Divided by' }).click();
  await page.getByRole('option', { name: 'Columns and rows' }).click();
  await setField(page, 'Columns', '6');
  await setField(page, 'Rows of panels', '3');
  const panels = page.getByText('Panels', { exact: true }).last().locator('..');
  await expect(panels).toContainText('18 on 18 sheets');
  await page.getByRole('combobox', { name: 'Divided by' }).click();
  await page.getByRole('option', { name: 'Seams by hand' }).click();
  await setField(page, 'Upright seam 1', '480');
  await expect(page.getByLabel('Upright seam 1')).toHaveValue('480');
  const whole = page.getByRole('img', { name: /^The whole in/ });
  await expect(whole).toBeVisible();
  const [plan] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Fitting plan (PDF)' }).click()]);
  expect(plan.suggestedFilename()).toMatch(/fitting-plan\.pdf$/);
  // an overlap wider than a panel is refused in words, and undo brings the panels back
  await setField(page, 'Overlap sideways', '900');
  await expect(page.getByText('It could not be divided so')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(panels).toContainText('18 on 18 sheets');
});
