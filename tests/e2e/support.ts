/** What the journeys share. */
import { expect, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';

/** Makes a job and opens it on Draw. */
export async function newJob(page: Page, name: string): Promise<void> {
  await page.goto('/jobs');
  await page.getByRole('button', { name: 'New job' }).click();
  await page.getByLabel('Name of the job').fill(name);
  await page.getByRole('button', { name: 'Begin', exact: true }).click();
  await expect(page.getByRole('application', { name: 'Drawing' })).toBeVisible();
}

export async function takeFilm(page: Page, name: string): Promise<void> {
  const taken = page.getByRole('complementary', { name: 'Film strip' }).getByText(name);
  await page.getByRole('button', { name: 'Film or print' }).click();
  // the list may be drawn anew while Stock comes in, and a click that came through late is not made twice
  await expect(async () => {
    if (await taken.isVisible()) return;
    if (!(await page.getByLabel('Find a film').isVisible())) await page.getByRole('button', { name: 'Film or print' }).click();
    await page.getByLabel('Find a film').fill(name);
    await page
      .getByRole('button', { name: new RegExp(name) })
      .last()
      .click({ timeout: 3000 });
    await expect(taken).toBeVisible({ timeout: 3000 });
  }).toPass({ timeout: 30_000 });
}

/** A point of the drawing, 0..1 each way of the visible area. */
export async function at(page: Page, x: number, y: number): Promise<{ x: number; y: number }> {
  const box = await page.getByRole('application', { name: 'Drawing' }).boundingBox();
  if (!box) throw new Error('no drawing');
  return { x: box.x + box.width * x, y: box.y + box.height * y };
}

/** Writes words on the drawing with the lettering tool. */
export async function write(page: Page, text: string, x = 0.3, y = 0.5): Promise<void> {
  await page.keyboard.press('l');
  const p = await at(page, x, y);
  await page.mouse.click(p.x, p.y);
  await expect(page.getByTestId('caret')).toBeAttached();
  await page.keyboard.type(text);
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('selection')).toBeVisible();
}

export async function setField(page: Page, label: string, value: string): Promise<void> {
  const field = page.getByRole('textbox', { name: label, exact: true });
  await field.fill(value);
  await field.press('Enter');
}

/** The number in a field, without its unit. */
/** Width and height of a shape, one after the other: with the lock closed the second would change the first. */
export async function setShape(page: Page, width: string, height: string): Promise<void> {
  await page.getByRole('button', { name: 'Ratio is kept' }).click();
  await setField(page, 'Shape width', width);
  await setField(page, 'Shape height', height);
  await page.getByRole('button', { name: 'Ratio is free' }).click();
}

export async function fieldValue(page: Page, label: string): Promise<number> {
  return Number(await page.getByRole('textbox', { name: label, exact: true }).inputValue());
}

export const saved = (page: Page): Promise<void> => expect(page.getByRole('status').filter({ hasText: /^Saved$/ })).toBeVisible();

export async function drag(page: Page, from: readonly [number, number], to: readonly [number, number]): Promise<void> {
  const [a, b] = [await at(page, ...from), await at(page, ...to)];
  await page.mouse.move(a.x, a.y);
  await page.mouse.down();
  await page.mouse.move(b.x, b.y, { steps: 6 });
  await page.mouse.up();
}

/** Writes the drawing or a paper of it. @returns the file that is saved */
export async function writeOut(page: Page, button: string, format?: string): Promise<Buffer> {
  await page.getByRole('button', { name: 'Write to a file, proof, work ticket' }).click();
  if (format) await page.getByRole('radio', { name: format, exact: true }).click();
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: button, exact: true }).click()]);
  return readFileSync(await download.path());
}

export const leaveField = (page: Page): Promise<void> => page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());

export async function click(page: Page, x: number, y: number): Promise<void> {
  const p = await at(page, x, y);
  await page.mouse.click(p.x, p.y);
}

export async function addTreatment(page: Page, kind: string): Promise<void> {
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('menuitem', { name: kind, exact: true }).click();
}

/** A box of a size, drawn with the tool at a share of the drawing's width. */
export async function box(page: Page, x: number, width: string, height: string): Promise<void> {
  await page.keyboard.press('b');
  const drawing = await page.getByRole('application', { name: 'Drawing' }).boundingBox();
  if (!drawing) throw new Error('no drawing');
  const [left, top] = [drawing.x + drawing.width * x, drawing.y + drawing.height * 0.4];
  await page.mouse.move(left, top);
  await page.mouse.down();
  await page.mouse.move(left + 60, top + 40, { steps: 4 });
  await page.mouse.up();
  await setShape(page, width, height);
}
