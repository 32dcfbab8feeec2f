import { expect, test } from '@jest/globals';
import { gzipSync } from 'node:zlib';
import { unpacked } from './unpacked.ts';

test('what is packed comes out as it was, what is not stays; bombs and damage are refused in words', async () => {
  const svg = new TextEncoder().encode('<svg xmlns="http://www.w3.org/2000/svg"/>');
  expect(await unpacked(svg)).toBe(svg);
  expect(Buffer.from(await unpacked(gzipSync(svg))).toString()).toContain('<svg');
  await expect(unpacked(gzipSync(Buffer.alloc(70 * 1024 * 1024)))).rejects.toThrow('64 MB');
  await expect(unpacked(gzipSync(svg).subarray(0, 20))).rejects.toThrow('damaged');
});
