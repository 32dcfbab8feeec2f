/** A page by plain http from another computer's name: the browser keeps some of its functions from such a page. */
import { expect, test } from './shop.fixture.ts';
import { newJob, saved, setField, takeFilm, write } from './support.ts';

test.use({ baseURL: ({ shop }, use) => use(`http://workshop.test:${shop.port}`) });

test('over plain http from another computer work is drawn, copied, saved and laid up', async ({ page }) => {
  await newJob(page, 'From the next room');
  expect(await page.evaluate(() => window.isSecureContext)).toBe(false);
  await takeFilm(page, 'Slate');
  await write(page, 'NEXT');
  await setField(page, 'Height of capitals', '60');
  await page.keyboard.press('Control+c');
  await page.keyboard.press('Control+v');
  await page.keyboard.press('Control+d');
  await page.keyboard.press('Control+a');
  await expect(page.getByText('3 items').first()).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.getByRole('application', { name: 'Drawing' })).toBeVisible();
  await page.keyboard.press('Control+a');
  await expect(page.getByText('3 items').first()).toBeVisible();
  await page.keyboard.press('4');
  await expect(page.getByText('Everything: 3 items from 1 film')).toBeVisible();
  await expect(page.getByText(/Length of cut/)).toBeVisible();
});
