import { expect, test } from '@jest/globals';
import { lstat } from 'node:fs/promises';
import { mkdtempSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { statIfThere } from '../src/files/stat-if-there.ts';

const dir = mkdtempSync(join(tmpdir(), 'lorvek-stat-'));

test('what is not there is nothing, what cannot be looked at is told', async () => {
  const file = join(dir, 'a');
  writeFileSync(file, 'abc');
  expect((await statIfThere(file))?.size).toBe(3);
  expect(await statIfThere(join(dir, 'none'))).toBeUndefined();
  expect(await statIfThere(join(file, 'below-a-file'))).toBeUndefined();
  await expect(statIfThere(join(dir, 'x'.repeat(400)))).rejects.toMatchObject({ code: 'ENAMETOOLONG' });
  const fault = Object.assign(new Error('disk'), { code: 'EIO' });
  await expect(statIfThere(file, () => Promise.reject(fault))).rejects.toBe(fault);
});

test('links are followed unless they must not be', async () => {
  const link = join(dir, 'link');
  symlinkSync(join(dir, 'nowhere'), link);
  expect(await statIfThere(link)).toBeUndefined();
  expect((await statIfThere(link, lstat))?.isSymbolicLink()).toBe(true);
});
