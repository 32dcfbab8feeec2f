/** What is made stays: refused changes, a server that goes away, two tabs, backups, signing in. */
import type { Page } from '@playwright/test';
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from './shop.fixture.ts';
import { fieldValue, newJob, saved, setField, takeFilm, write } from './support.ts';

const CHANGES = '**/api/jobs/*/changes';
const refusing = (status: number, type: string, detail: string, more: object = {}) => ({
  status,
  contentType: 'application/problem+json',
  body: JSON.stringify({ type, title: type, status, detail, ...more }),
});

async function draw(page: Page, name: string): Promise<void> {
  await newJob(page, name);
  await takeFilm(page, 'Deep teal');
  await write(page, 'Quay');
  await saved(page);
}

test('a change that the server refuses is set aside, what follows is saved, and it can be made again', async ({ page }) => {
  await draw(page, 'Refused');
  const before = await fieldValue(page, 'X');
  await page.route(CHANGES, (route) =>
    route.request().method() === 'POST'
      ? route.fulfill(refusing(413, 'limit.body', 'The request is larger than this address takes.'))
      : route.continue(),
  );
  await setField(page, 'X', String(before + 40));
  await expect(page.getByRole('button', { name: '1 set aside' })).toBeVisible();
  await expect.poll(() => fieldValue(page, 'X')).toBe(before);
  await page.unroute(CHANGES);
  const y = await fieldValue(page, 'Y');
  await setField(page, 'Y', String(y + 10));
  await saved(page);
  await page.reload();
  await page.getByRole('button', { name: '1 set aside' }).click();
  await expect(page.getByText('The request is larger than this address takes.')).toBeVisible();
  await page.getByRole('button', { name: 'Make it again' }).click();
  await saved(page);
  await page.keyboard.press('Control+a');
  await expect.poll(() => fieldValue(page, 'X')).toBe(before + 40);
  await expect.poll(() => fieldValue(page, 'Y')).toBe(y + 10);
});

test('a disk that is full is told with the time, the page keeps its changes over a reload, and they go out when there is room', async ({
  page,
}) => {
  await draw(page, 'Full');
  const before = await fieldValue(page, 'X');
  await page.route(CHANGES, (route) =>
    route.request().method() === 'POST'
      ? route.fulfill(
          refusing(507, 'storage.full', 'The disk of the server is full; nothing is saved until that is put right.', {
            since: '2026-05-31T14:02:00',
            remedy: 'Make room on it.',
          }),
        )
      : route.continue(),
  );
  await setField(page, 'X', String(before + 25));
  await expect(page.getByRole('alert')).toContainText('The disk of the server is full; nothing since 14:02 is saved.');
  page.once('dialog', (dialog) => void dialog.accept());
  await page.reload();
  await expect(page.getByText('Changes that had not reached the server')).toBeVisible();
  await page.keyboard.press('Control+a');
  await expect.poll(() => fieldValue(page, 'X')).toBe(before + 25);
  await page.unroute(CHANGES);
  await saved(page);
});

test('a version is kept by its name, gone back to, and that is undone', async ({ page }) => {
  await draw(page, 'Versions');
  const before = await fieldValue(page, 'X');
  await page.keyboard.press('Control+s');
  await page.getByLabel('Name of the version').fill('As the customer saw it');
  await page.keyboard.press('Enter');
  await expect(page.getByText('“As the customer saw it” is kept.')).toBeVisible();
  await page.keyboard.press('Escape');
  await setField(page, 'X', String(before + 70));
  await saved(page);
  await page.getByRole('button', { name: 'Versions' }).click();
  await page.getByRole('button', { name: 'Go back to it' }).click();
  await saved(page);
  await page.keyboard.press('Control+a');
  await expect.poll(() => fieldValue(page, 'X')).toBe(before);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+a');
  await expect.poll(() => fieldValue(page, 'X')).toBe(before + 70);
});

test('a station that cannot be fetched says so, and comes when the server is there again; what was drawn stays', async ({ page }) => {
  await page.route('**/assets/trace-*.js', (route) => route.abort());
  await draw(page, 'Away for a moment');
  await page.getByRole('link', { name: /^Trace/ }).click();
  await expect(page.getByText('This station could not be fetched from the server. What you made is safe.')).toBeVisible();
  await page.getByRole('link', { name: /^Draw/ }).click();
  await expect(page.getByRole('application', { name: 'Drawing' })).toBeVisible();
  await page.keyboard.press('2');
  await expect(page.getByText('could not be fetched')).toBeVisible();
  await page.unroute('**/assets/trace-*.js');
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(page.getByText('could not be fetched')).toBeHidden();
  await expect(page.getByRole('complementary', { name: 'Ticket' })).toBeVisible();
});

test('a job that a newer version saved is shown, and neither changed nor sent', async ({ page }) => {
  await draw(page, 'From another shop');
  const name = await fieldValue(page, 'X');
  await page.route(/\/api\/jobs\/[^/]+$/, async (route) => {
    const response = await route.fetch();
    const body = (await response.json()) as object;
    await route.fulfill({ response, json: { ...body, readOnly: 'This job was saved by a newer version of Lorvek.' } });
  });
  await page.reload();
  await expect(page.getByText('This job was saved by a newer version of Lorvek.').first()).toBeVisible();
  await expect(page.getByText('To look at')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Write to a file, proof, work ticket' })).toBeDisabled();
  await page.getByRole('application', { name: 'Drawing' }).focus();
  await page.keyboard.press('Control+a');
  await setField(page, 'X', String(name + 40));
  await expect.poll(() => fieldValue(page, 'X')).toBe(name);
  await page.keyboard.press('Delete');
  await expect.poll(() => fieldValue(page, 'X')).toBe(name);
  await page.getByRole('link', { name: /^Send/ }).click();
  await expect(page.getByText('A newer version of Lorvek saved this job; send it from there.').first()).toBeVisible();
});

test('two tabs of one browser keep what each has made while the server was away', async ({ context, page }) => {
  await draw(page, 'Two tabs');
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByRole('application', { name: 'Drawing' })).toBeVisible();
  await context.route(CHANGES, (route) => (route.request().method() === 'POST' ? route.abort() : route.continue()));
  for (const [tab, text, y] of [
    [page, 'One', 0.3],
    [other, 'Two', 0.7],
  ] as const) {
    await write(tab, text, 0.3, y);
    await expect(tab.getByRole('status').filter({ hasText: 'Not saved' })).toBeVisible();
  }
  const url = page.url();
  for (const tab of [page, other]) await tab.close({ runBeforeUnload: false });
  await context.unroute(CHANGES);
  const again = await context.newPage();
  await again.goto(url);
  await saved(again);
  for (const name of ['Quay', 'One', 'Two'])
    await expect(
      again
        .getByRole('button', { name, exact: true })
        .or(again.getByText(name, { exact: true }))
        .first(),
    ).toBeVisible();
});

test('a backup is made, the shop is changed, and the backup is brought back', async ({ page }) => {
  await newJob(page, 'Before the backup');
  await page.goto('/backups');
  await page.getByRole('button', { name: 'Make one now' }).click();
  await expect(page.getByText('Backup made.')).toBeVisible();
  await newJob(page, 'After the backup');
  await page.goto('/backups');
  const row = page.getByRole('row').filter({ hasText: 'made by hand' }).first();
  await row.getByRole('button', { name: 'Bring back' }).click();
  await page.getByRole('button', { name: 'Bring it back' }).click();
  await expect(page.getByRole('row').filter({ hasText: 'before a backup was brought back' }).first()).toBeVisible();
  await page.goto('/jobs');
  await expect(page.getByRole('link', { name: 'Open Before the backup' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Open After the backup' })).toHaveCount(0);
});

test.describe('a server that asks for a passphrase', () => {
  const data = mkdtempSync(join(tmpdir(), 'lorvek-signin-'));
  let server: ChildProcess;
  let port: number;
  test.beforeAll(async ({ shop }) => {
    port = shop.port + 1;
    const env = {
      ...process.env,
      LORVEK_PORT: String(port),
      LORVEK_DATA: data,
      LORVEK_LOG: 'silent',
      LORVEK_PASSPHRASE: 'low water at nine',
    };
    server = spawn(process.execPath, ['apps/server/dist/main.js'], { cwd: join(import.meta.dirname, '..', '..'), env, stdio: 'ignore' });
    for (let k = 0; k < 100 && !(await fetch(`http://127.0.0.1:${port}/api/health`).catch(() => undefined))?.ok; k++)
      await new Promise((resolve) => setTimeout(resolve, 200));
  });
  test.afterAll(() => {
    server.kill();
    rmSync(data, { recursive: true, force: true });
  });

  test('lets nobody see a job before, loads what was asked for after, and lets out again', async ({ page }) => {
    await page.goto(`http://127.0.0.1:${port}/jobs`);
    await page.getByLabel('Passphrase of the shop').fill('high water');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByText('That is not the passphrase of this shop.')).toBeVisible();
    await page.getByLabel('Passphrase of the shop').fill('low water at nine');
    await page.keyboard.press('Enter');
    await expect(page.getByText('No job on the board')).toBeVisible();
    await page.getByRole('link', { name: 'Backups' }).click();
    await page.getByRole('button', { name: 'Sign out' }).click();
    await expect(page.getByLabel('Passphrase of the shop')).toBeVisible();
    expect((await page.request.get(`http://127.0.0.1:${port}/api/jobs`)).status()).toBe(401);
  });
});

test('a page that cannot be fetched says so, and comes when it is loaded again', async ({ page }) => {
  await page.goto('/jobs');
  await expect(page.getByRole('heading', { name: 'Jobs' })).toBeVisible();
  await page.route(/assets\/stock-.*\.js/, (route) => route.abort());
  await page.getByRole('link', { name: 'Stock' }).click();
  await expect(page.getByRole('heading', { name: 'This page broke' })).toBeVisible();
  await page.unroute(/assets\/stock-.*\.js/);
  await page.getByRole('button', { name: 'Load it again' }).click();
  await expect(page.getByRole('heading', { name: 'Stock', exact: true })).toBeVisible();
  await expect(page).toHaveTitle('Stock – Lorvek');
});
