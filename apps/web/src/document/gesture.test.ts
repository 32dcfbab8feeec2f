import { expect, test } from '@jest/globals';
import { gestureOf } from './gesture.ts';

test('changes of one thing in quick succession are one step; after a pause, or of another thing, they are not', () => {
  const first = gestureOf('reach', 1000);
  expect(gestureOf('reach', 1500)).toBe(first);
  expect(gestureOf('reach', 2050)).toBe(first);
  const later = gestureOf('reach', 3000);
  expect(later).not.toBe(first);
  expect(gestureOf('holes', 3010)).not.toBe(later);
});
