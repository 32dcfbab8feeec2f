/** Artwork in and out: files of every kind, the Inbox, Make cuttable, findings with remedies, files and papers written. */
import type { Page } from '@playwright/test';
import { closeSync, ftruncateSync, openSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { writePng } from '../../demo/hull-picture.ts';
import { expect, test } from './shop.fixture.ts';
import { fieldValue, newJob, saved, setField, takeFilm, writeOut } from './support.ts';

const bring = (page: Page, name: string, content: string): Promise<void> =>
  page.getByLabel('File to bring in').setInputFiles({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(content) });

const dxf = (entities: string): string => `0\nSECTION\n2\nENTITIES\n${entities.split('|').join('\n')}\n0\nENDSEC\n0\nEOF\n`;

/** Strokes that do not meet, a shape drawn twice, two that cross, a speck. */
const UGLY = `<svg xmlns="http://www.w3.org/2000/svg" width="300mm" height="150mm" viewBox="0 0 300 150">
  <path d="M20 20H90V70" fill="none" stroke="#1b4f72" stroke-width="0.1"/><path d="M90.2 70.1H20V20.3" fill="none" stroke="#1b4f72" stroke-width="0.1"/>
  <circle cx="150" cy="50" r="25" fill="#c4281f"/><circle cx="150" cy="50" r="25" fill="#c4281f"/>
  <rect x="200" y="20" width="40" height="40" fill="#c4281f"/><rect x="220" y="40" width="40" height="40" fill="#c4281f"/>
  <rect x="280" y="20" width="0.3" height="0.3" fill="#c4281f"/></svg>`;

test('a drawing without a size asks for it; a plotter file and a file with a false name come in by what they are', async ({ page }) => {
  await newJob(page, 'All kinds');
  await bring(
    page,
    'bracket.dxf',
    dxf('0|LINE|8|CUT|10|0|20|0|11|4|21|0|0|LINE|8|CUT|10|4|20|3|11|4|21|0|0|LINE|8|CUT|10|0|20|0|11|4|21|3'),
  );
  await expect(page.getByText('The file does not say how large it is')).toBeVisible();
  await page.getByRole('radio', { name: 'One unit is an inch' }).click();
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(101.6);
  await expect(page.getByText('Lines whose ends meet were joined.')).toBeVisible();
  await page.keyboard.press('Escape');
  await bring(
    page,
    'really-a-plot.pdf',
    'IN;SP1;PU400,400;PD2000,400,2000,1200,400,1200,400,400;PU800,600;PD1200,600,1200,1000,800,1000,800,600;PU;',
  );
  await expect.poll(() => fieldValue(page, 'Width')).toBe(40);
  await expect(page.getByText('1 part,', { exact: false }).first()).toBeVisible();
  await page.keyboard.press('Escape');
  for (const [name, content, says] of [
    ['empty.svg', '', /is empty/],
    ['letter.doc', 'Dear sir', /none of the kinds/],
    ['torn.pdf', '%PDF-1.4 nothing', /not a PDF file|damaged/],
  ] as const) {
    await bring(page, name, content);
    await expect(page.getByText(says).last()).toBeVisible();
  }
  const whole = writePng(60, 40, (x) => [4 * x, 80, 120]);
  await page.getByLabel('File to bring in').setInputFiles({ name: 'half.png', mimeType: 'image/png', buffer: whole.subarray(0, 90) });
  await expect(page.getByText(/“half\.png”: the picture is cut short or damaged/i)).toBeVisible();
  await saved(page);
});

test('a customer’s ugly drawing is made cuttable with one button; a step is taken back alone', async ({ page }) => {
  await newJob(page, 'Ugly');
  await bring(page, 'ugly.svg', UGLY);
  await expect(page.getByText('Import report')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Film strip' }).getByText('Buoy red')).toBeVisible();
  // no film is like the blue of the lines: what is nearest is for the user to take
  await page.getByRole('button', { name: 'Match all' }).click();
  const chip = page.getByRole('button', { name: /^Cut check: \d+ finding/ });
  await expect(chip).toHaveAttribute('aria-label', /Cut check: [1-9]/);
  await chip.click();
  for (const kind of ['Doubled lines', 'Crossings', 'Tiny parts', 'Open outlines'])
    await expect(page.getByRole('region', { name: kind }).first()).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Make cuttable', exact: true }).click();
  await page.getByRole('button', { name: /^Make \d+ shapes cuttable/ }).click();
  await expect(page.getByText('Items whose ends meet became one.')).toBeVisible();
  await expect(page.getByText('1 speck dropped.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Cut check: 0 findings' })).toBeVisible();
  await page.getByRole('switch', { name: 'Drop specks' }).click();
  await expect(page.getByRole('button', { name: 'Cut check: 1 finding' })).toBeVisible();
  await page.getByRole('button', { name: 'Cut check: 1 finding' }).click();
  await page.getByRole('button', { name: 'Drop it' }).click();
  await expect(page.getByRole('button', { name: 'Cut check: 0 findings' })).toBeVisible();
  await saved(page);
});

/** Words and a disc in many short lines, as scanners of outlines write them. */
const rough = (): string => {
  const ring = Array.from({ length: 400 }, (_, k) => {
    const [a, r] = [(2 * Math.PI * k) / 400, 60 + (k % 2 ? 0.01 : -0.01)];
    return `${(80 + r * Math.cos(a)).toFixed(3)} ${(80 + r * Math.sin(a)).toFixed(3)}`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="160mm" height="160mm" viewBox="0 0 160 160"><path fill="#c4281f" d="M${ring.join('L')}Z"/></svg>`;
};

test('a gradient is cut in one flat colour and kept for print: shown, written and read again, undone', async ({ page }) => {
  await newJob(page, 'Courses of colour');
  await bring(
    page,
    'sunset.svg',
    `<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="40mm" viewBox="0 0 80 40">
      <linearGradient id="a"><stop stop-color="#ff0000"/><stop offset="1" stop-color="#0000ff"/></linearGradient>
      <rect width="80" height="40" fill="url(#a)"/></svg>`,
  );
  await expect(page.getByText('it is kept for print')).toBeVisible();
  const flat = (await writeOut(page, 'Write the file', 'SVG, true mm, a layer a film')).toString();
  expect(flat).not.toContain('Gradient');
  await page.getByRole('radio', { name: /^As printed/ }).click();
  const printed = (await writeOut(page, 'Write the file', 'SVG, true mm, a layer a film')).toString();
  expect(printed).toMatch(/<linearGradient .*stop-color="#ff0000".*stop-color="#0000ff"/);
  const pdf = (await writeOut(page, 'Write the file', 'PDF')).toString('latin1');
  expect(pdf).toMatch(/ShadingType 2/);
  const png = await writeOut(page, 'Write the file', 'PNG picture');
  const [left, middle, right] = await page.evaluate(async (base64) => {
    const bitmap = await createImageBitmap(new Blob([Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))]));
    const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d');
    context?.drawImage(bitmap, 0, 0);
    return [0.05, 0.5, 0.95].map((x) => [...(context?.getImageData(bitmap.width * x, bitmap.height / 2, 1, 1).data ?? [])]);
  }, png.toString('base64'));
  expect(left?.[0]).toBeGreaterThan(230);
  expect(right?.[2]).toBeGreaterThan(230);
  expect(Math.abs((middle?.[0] ?? 0) - (middle?.[2] ?? 255))).toBeLessThan(12);
  await saved(page);
  await page.reload();
  await page.getByRole('application', { name: 'Drawing' }).click();
  await page.keyboard.press('Control+a');
  await expect(page.getByRole('radio', { name: /^As printed/ })).toBeChecked();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Undo/ }).click();
  await page.keyboard.press('Control+a');
  await expect(page.getByRole('radio', { name: /^Flat/ })).toBeChecked();
});

test('a drawing is pasted as text; its nodes are thinned out with old and new shown before', async ({ page }) => {
  await newJob(page, 'Pasted');
  await page.evaluate((text) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', text);
    window.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, rough());
  await expect(page.getByText('Import report')).toBeVisible();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue(/Part 1|Pasted/);
  await page.keyboard.press('n');
  await expect(page.getByTestId('compared')).toBeVisible();
  const figures = page.getByText(/400 → \d+ nodes/);
  await expect(figures).toBeVisible();
  const [after, deviation] = [...(await figures.innerText()).matchAll(/→ (\d+) nodes, ([\d.]+)/g)][0]?.slice(1).map(Number) ?? [];
  expect(after).toBeLessThanOrEqual(8);
  expect(deviation).toBeLessThanOrEqual(0.05);
  await page.getByRole('switch', { name: 'Show old and new' }).click();
  await expect(page.getByTestId('compared')).toHaveCount(0);
  await page.getByRole('button', { name: 'Thin out', exact: true }).click();
  await expect(page.getByText(`0 of ${after}`).or(page.getByText('Click or mark out nodes'))).toBeVisible();
  await page.keyboard.press('s');
  await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(120, 1);
  await saved(page);
});

test('a file of more than 200 MB is refused at once, and the page works on', async ({ page }) => {
  await newJob(page, 'Too large');
  const path = join(import.meta.dirname, '..', '..', 'test-results', 'too-large.svg');
  const file = openSync(path, 'w');
  writeSync(file, '<svg xmlns="http://www.w3.org/2000/svg">');
  ftruncateSync(file, 201 * 1024 * 1024);
  closeSync(file);
  await page.getByLabel('File to bring in').setInputFiles(path);
  await expect(page.getByText(/larger than 200 MB/)).toBeVisible();
  await bring(
    page,
    'bomb.svg',
    `<!DOCTYPE svg [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm">&b;</svg>`,
  );
  await expect(page.getByText(/“bomb\.svg” holds nothing|“bomb\.svg”: /).last()).toBeVisible();
  await takeFilm(page, 'Slate');
  await saved(page);
});

test('what is saved into the Inbox is placed with one click and updated in its place', async ({ page, shop }) => {
  const svg = (width: number): string =>
    `<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 100 50"><radialGradient id="g"><stop stop-color="#c4281f"/><stop offset="1" stop-color="#ffc040"/></radialGradient><rect width="${width}" height="20" fill="#c4281f"/><circle cx="70" cy="40" r="5" fill="url(#g)"/></svg>`;
  await newJob(page, 'Inbox');
  await takeFilm(page, 'Buoy red');
  writeFileSync(join(shop.inbox, 'badge.svg'), svg(80));
  await page.getByRole('button', { name: 'Place', exact: true }).first().click();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(80);
  await page.getByRole('radio', { name: /^As printed/ }).click();
  await setField(page, 'X', '200');
  await setField(page, 'Width', '160');
  await page.keyboard.press('Escape');
  writeFileSync(join(shop.inbox, 'badge.svg'), svg(90));
  await page.getByRole('application', { name: 'Drawing' }).click({ position: { x: 60, y: 60 } });
  await page.getByRole('button', { name: 'Update', exact: true }).click();
  await expect.poll(() => fieldValue(page, 'Width')).toBe(180);
  expect(await fieldValue(page, 'X')).toBe(200);
  await expect(page.getByRole('radio', { name: /^As printed/ })).toBeChecked();
  await page.keyboard.press('Control+z');
  await expect.poll(() => fieldValue(page, 'Width')).toBe(160);
  await page.goto('/inbox');
  await expect(page.getByText('badge.svg')).toBeVisible();
});

test('files and papers are written, and what was written comes in again at the same size', async ({ page }) => {
  await newJob(page, 'Written');
  await bring(page, 'logo.svg', UGLY.replace(/<path.*\n/, ''));
  await expect(page.getByText('Import report')).toBeVisible();
  const width = await fieldValue(page, 'Width');
  const pdf = await writeOut(page, 'Write the file', 'PDF');
  expect((await writeOut(page, 'Write the file', 'PNG picture')).subarray(1, 4).toString()).toBe('PNG');
  expect((await writeOut(page, 'Write the file', 'DXF')).toString()).toContain('AcDb');
  expect((await writeOut(page, 'Proof')).subarray(0, 5).toString()).toBe('%PDF-');
  expect((await writeOut(page, 'Work ticket')).subarray(0, 5).toString()).toBe('%PDF-');
  await page.keyboard.press('Escape');
  await page.getByLabel('File to bring in').setInputFiles({ name: 'again.pdf', mimeType: 'application/pdf', buffer: pdf });
  await expect(page.getByText('again.pdf', { exact: true })).toBeVisible();
  await expect.poll(() => fieldValue(page, 'Width')).toBeCloseTo(width, 1);
  await saved(page);
});

test('a bitmap is traced: colours found, one left out, laid over the picture, opened again and changed', async ({ page }) => {
  const inside = (x: number, y: number, r: number): boolean => (x - 80) ** 2 + (y - 60) ** 2 < r * r;
  const picture = writePng(160, 120, (x, y) => (inside(x, y, 20) ? [11, 37, 69] : inside(x, y, 45) ? [196, 40, 31] : [255, 255, 255]));
  await newJob(page, 'Traced');
  await page.getByLabel('File to bring in').setInputFiles({ name: 'badge.png', mimeType: 'image/png', buffer: picture });
  await expect(page.getByText('160 × 120')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('2');
  await expect(page.getByTestId('traced').locator('path')).toHaveCount(2);
  await page.getByRole('button', { name: '#0b2545', exact: true }).click();
  await expect(page.getByTestId('traced').locator('path')).toHaveCount(1);
  await page.getByRole('button', { name: '#0b2545, left out' }).click();
  await expect(page.getByTestId('traced').locator('path')).toHaveCount(2);
  await page.getByRole('button', { name: 'Trace onto the drawing' }).click();
  await expect(page.getByText('the picture is hidden under it', { exact: false })).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Film strip' }).getByText('Buoy red')).toBeVisible();
  await page.getByRole('radio', { name: /^Overlaid/ }).click();
  await page.getByRole('button', { name: 'Trace again and replace' }).click();
  await page.keyboard.press('1');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Trace of badge');
  await saved(page);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await saved(page);
});
