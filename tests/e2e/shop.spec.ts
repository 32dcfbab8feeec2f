/** Jobs, Lay up, the Cut check and the helps. */
import { expect, test } from './shop.fixture.ts';
import { newJob, saved, setField, takeFilm, write } from './support.ts';

test('a job is made, changed, duplicated, archived and brought back', async ({ page }) => {
  await newJob(page, 'Ice store door');
  await page.getByRole('link', { name: 'Back to the jobs' }).click();
  await page.getByRole('button', { name: 'State of Ice store door: To do. Change it' }).click();
  await page.getByRole('menuitem', { name: 'Ready to cut' }).click();
  await expect(page.getByRole('button', { name: /State of Ice store door: Ready to cut/ })).toBeVisible();
  await page.getByRole('button', { name: 'More for Ice store door' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(page.getByText('Ice store door – copy')).toBeVisible();
  await page.getByRole('button', { name: 'More for Ice store door – copy' }).click();
  await page.getByRole('menuitem', { name: 'Archive' }).click();
  await expect(page.getByText('Ice store door – copy')).toBeHidden();
  await page.getByRole('link', { name: 'Archived' }).click();
  await page.getByRole('button', { name: 'More for Ice store door – copy' }).click();
  await page.getByRole('menuitem', { name: 'Back to the board' }).click();
  await expect(page.getByText('Nothing is archived')).toBeVisible();
});

test('transfer film is mirrored by itself and says why; too large is said and cannot be sent', async ({ page }) => {
  await newJob(page, 'Caps');
  await takeFilm(page, 'Rope sand');
  await write(page, 'FERRY');
  await saved(page);
  await page.keyboard.press('4');
  await expect(page.getByText(/Mirrored, as suggested: transfer film is cut reversed/)).toBeVisible();
  await page.getByRole('switch', { name: 'Mirror' }).click();
  await expect(page.getByText(/it reads backwards once pressed/)).toBeVisible();
  await page.getByRole('button', { name: 'Mirror it' }).click();
  await page.getByRole('combobox', { name: /Rope sand/ }).click();
  await page.getByRole('option', { name: /500 mm wide/ }).click();
  await setField(page, 'Copies', '3');
  await expect(page.getByText('Side by side')).toBeVisible();
  await setField(page, 'Across the roll', '485');
  await expect(page.getByText(/too wide for this material/)).toBeVisible();
  await saved(page);
  await page.getByRole('link', { name: /Send/ }).click();
  await expect(page.getByText(/reaches .* beyond the material/).first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Cut 1 sheet' })).toBeDisabled();
});

test('crossing outlines are found, shown and welded', async ({ page }) => {
  await newJob(page, 'Crossing');
  await takeFilm(page, 'Gull white');
  await write(page, 'OO', 0.35, 0.5);
  await page.keyboard.press('Control+d');
  await page.getByRole('button', { name: /Cut check: [1-9]/ }).click();
  await expect(page.getByText(/cross in the same film/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Weld' }).first().click();
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Weld of 2');
  await expect(page.getByRole('button', { name: 'Cut check: 0 findings' })).toBeVisible();
});

test('a character that the font lacks is named and taken from another font', async ({ page }) => {
  await newJob(page, 'Two scripts');
  await takeFilm(page, 'Harbour navy');
  await write(page, 'Mole مرفأ');
  await expect(page.getByText(/has no “م”/)).toBeVisible();
  await page
    .getByRole('button', { name: /Take it from/ })
    .first()
    .click();
  await expect(page.getByText(/has no “م”/)).toBeHidden();
  await saved(page);
});

test('impossible numbers are refused in words and change nothing', async ({ page }) => {
  await newJob(page, 'Impossible');
  await takeFilm(page, 'Slate');
  await write(page, 'NO');
  await setField(page, 'Height of capitals', '0');
  await expect(page.getByText('Height of capitals must be 0.5 mm or more.')).toBeVisible();
  await setField(page, 'Height of capitals', 'three');
  await expect(page.getByText(/"three" is not a length/)).toBeVisible();
  await page.keyboard.press('Escape');
  // what is taken back with Escape is not taken by leaving the field either
  const capitals = page.getByRole('textbox', { name: 'Height of capitals' });
  const kept = await capitals.inputValue();
  await capitals.fill('99');
  await page.keyboard.press('Escape');
  await expect(capitals).toHaveValue(kept);
  await saved(page);
  await page.goto('/jobs/job-that-is-not/draw');
  await expect(page.getByRole('heading', { name: 'This job is not here' })).toBeVisible();
});

test('the key sheet, the search and the blade view open by key', async ({ page }) => {
  await page.goto('/jobs');
  await page.getByRole('link', { name: /Open Transom name/ }).click();
  await expect(page.getByRole('application', { name: 'Drawing' })).toBeVisible();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Search everything' }).fill('saltmarsh harbour');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('selection')).toBeVisible();
  const undo = page.getByRole('button', { name: /^Undo/ });
  await expect(undo).toBeDisabled();
  // what is wanted is found by another word for it, and done
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Search everything' }).fill('copy');
  await page.keyboard.press('Enter');
  await expect(undo).toBeEnabled();
  await page.keyboard.press('Control+z');
  await expect(undo).toBeDisabled();
  // with nothing selected it is said, not passed over
  await page.keyboard.press('Escape');
  await page.keyboard.press('/');
  await page.getByRole('textbox', { name: 'Search everything' }).fill('flip reverse');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Nothing is selected.')).toBeVisible();
  await page.keyboard.press('v');
  await expect(page.getByRole('button', { name: /Blade view/ })).toHaveAttribute('aria-pressed', 'true');
});

test('films, rolls and machines are added, copied, changed and taken away on their pages', async ({ page }) => {
  await page.goto('/stock');
  await page.getByRole('button', { name: 'Film', exact: true }).click();
  await page.getByLabel('Series').fill('Breakwater 7-year');
  await page.getByLabel('Colour name').fill('Buoy orange');
  await page.getByLabel('Price per metre', { exact: true }).fill('seven');
  await page.getByRole('button', { name: 'Into Stock' }).click();
  await expect(page.getByText('“seven” is no price.')).toBeVisible();
  await page.getByLabel('Price per metre', { exact: true }).fill('7,50');
  await page.getByRole('button', { name: 'Into Stock' }).click();
  const row = page.getByRole('row').filter({ hasText: 'Buoy orange' }).first();
  const price = row.getByLabel('Price per metre of Buoy orange');
  await expect(price).toHaveValue('7.5');
  await price.fill('8.20');
  await price.press('Enter');
  await row.getByRole('button', { name: 'More for Breakwater 7-year Buoy orange' }).click();
  await page.getByRole('menuitem', { name: 'One more roll' }).click();
  await page.getByLabel('Roll width').fill('1220');
  await page.getByRole('button', { name: 'Into Stock' }).click();
  await expect(row.getByText('1220 mm')).toBeVisible();
  await page.reload();
  await expect(price).toHaveValue('8.2');
  await row.getByRole('button', { name: 'Take the 610 mm roll of Buoy orange out of Stock' }).click();
  await expect(row.getByText('610 mm')).toHaveCount(0);
  await row.getByRole('button', { name: 'More for Breakwater 7-year Buoy orange' }).click();
  await page.getByRole('menuitem', { name: 'Take it out of Stock' }).click();
  await page.getByRole('button', { name: 'Take it out', exact: true }).click();
  await expect(page.getByText('Buoy orange')).toHaveCount(0);

  await page.goto('/machines');
  await page.getByRole('button', { name: 'Copy Bench cutter 610' }).click();
  const copy = page.locator('section').filter({ has: page.getByRole('button', { name: 'Copy Bench cutter 610, another' }) });
  // no length is said: it is as the roll, not nothing; what is said is kept, and a blank takes it back
  const longest = copy.getByLabel('Longest sheet');
  await expect(longest).toHaveValue('');
  await expect(longest).toHaveAttribute('placeholder', 'as the roll');
  await longest.fill('3000');
  await longest.press('Enter');
  await page.reload();
  await expect(longest).toHaveValue('3000');
  await longest.fill('');
  await longest.press('Enter');
  await page.reload();
  await expect(longest).toHaveValue('');
  await copy.getByLabel('Name of the machine').fill('Old cutter');
  await copy.getByLabel('Name of the machine').press('Enter');
  await page.getByRole('button', { name: 'Take Old cutter away' }).click();
  await page.getByRole('button', { name: 'Take it away' }).click();
  await expect(page.getByRole('button', { name: 'Take Old cutter away' })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Take Bench cutter 610 away' })).toBeVisible();
});

test('no page and no station is longer than the window: only what is meant to scroll does', async ({ page }) => {
  await newJob(page, 'Long shelves');
  await takeFilm(page, 'Harbour navy');
  await write(page, 'SHELF');
  await saved(page);
  const job = new URL(page.url()).pathname.replace(/\/draw$/, '');
  await page.setViewportSize({ width: 1100, height: 420 });
  const paths = [
    '/jobs',
    '/queue',
    '/inbox',
    '/stock',
    '/machines',
    '/backups',
    ...['draw', 'trace', 'build', 'layup', 'send'].map((one) => `${job}/${one}`),
  ];
  for (const path of paths) {
    await page.goto(path);
    await page.waitForLoadState('networkidle');
    const [long, window] = await page.evaluate(() => [document.documentElement.scrollHeight, innerHeight]);
    expect([path, long]).toEqual([path, window]);
  }
});
