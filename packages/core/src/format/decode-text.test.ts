import { expect, test } from '@jest/globals';
import { decodeText, decodeUtf8 } from './decode-text.ts';

test('windows-1252 keeps its euro sign and quotes', () => {
  expect(decodeText(Uint8Array.of(0x80, 0x93, 0xe9, 0x94), 'windows-1252')).toBe('€“é”');
});

test('UTF-8 is told from what is not, also when it is cut off', () => {
  expect(decodeUtf8(Uint8Array.of(0xc3, 0xa9))).toBe('é');
  expect(decodeUtf8(Uint8Array.of(0x61, 0xc3))).toBeUndefined();
});
