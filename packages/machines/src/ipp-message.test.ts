/** Messages to printers: what is written is read again; bytes that are no message end in an error, at once. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readIpp, TAG, writeIpp, type IppAttribute, type IppGroup, type IppMessage } from './ipp-message.ts';

const name = fc.stringMatching(/^[a-z][a-z-]{0,20}$/);
const text = fc.string({ maxLength: 40 });
const int = fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 });
const several = <T>(value: fc.Arbitrary<T>) => fc.array(value, { minLength: 1, maxLength: 3 });
const plain: fc.Arbitrary<IppAttribute> = fc.oneof(
  fc.record({ tag: fc.constantFrom(TAG.integer, TAG.enum), name, values: several(int) }),
  fc.record({ tag: fc.constant(TAG.boolean), name, values: several(fc.boolean()) }),
  fc.record({ tag: fc.constantFrom(TAG.text, TAG.name, TAG.keyword, TAG.uri, TAG.mime), name, values: several(text) }),
  fc.record({ tag: fc.constant(TAG.range), name, values: several(fc.tuple(int, int)) }),
);
const collection: fc.Arbitrary<IppAttribute> = fc.record({
  tag: fc.constant(TAG.begin),
  name,
  values: fc.array(fc.record({ collection: fc.array(plain, { minLength: 1, maxLength: 3 }) }), { minLength: 1, maxLength: 2 }),
});
const group: fc.Arbitrary<IppGroup> = fc.record({
  tag: fc.constantFrom(TAG.operation, TAG.job, TAG.printer),
  attributes: fc.array(fc.oneof(plain, collection), { maxLength: 5 }),
});
const message: fc.Arbitrary<Omit<IppMessage, 'data'>> = fc.record({
  major: fc.integer({ min: 1, max: 2 }),
  minor: fc.integer({ min: 0, max: 2 }),
  code: fc.integer({ min: 0, max: 0xffff }),
  id: fc.integer({ min: 1, max: 2 ** 31 - 1 }),
  groups: fc.array(group, { maxLength: 3 }),
});

test('what is written is read again, with what follows it', () => {
  fc.assert(
    fc.property(message, fc.uint8Array({ maxLength: 30 }), (written, data) => {
      const { data: rest, ...read } = readIpp(Buffer.concat([writeIpp(written), data]));
      expect(read).toEqual(written);
      expect([...rest]).toEqual([...data]);
    }),
  );
});

test('a message that ends too soon is refused wherever it ends', () => {
  fc.assert(
    fc.property(message, fc.double({ min: 0, max: 1, noNaN: true }), (written, share) => {
      const bytes = writeIpp(written);
      const end = Math.floor(share * (bytes.length - 1));
      expect(() => readIpp(bytes.subarray(0, end))).toThrow(RangeError);
    }),
  );
});

test('bytes by lot are read or refused, and never anything else', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 400 }), (bytes) => {
      try {
        expect(Array.isArray(readIpp(bytes).groups)).toBe(true);
      } catch (error) {
        expect(error).toBeInstanceOf(Error);
      }
    }),
    { numRuns: 500 },
  );
});

test('a value without an attribute, and an attribute outside of a group, are refused', () => {
  const head = [1, 1, 0, 2, 0, 0, 0, 1];
  const integer = [TAG.integer, 0, 1, 97, 0, 4, 0, 0, 0, 5];
  expect(() => readIpp(Uint8Array.from([...head, ...integer, TAG.end]))).toThrow('outside of a group');
  const nameless = [TAG.begin, 0, 1, 99, 0, 0, TAG.integer, 0, 0, 0, 4, 0, 0, 0, 5, TAG.endCollection, 0, 0, 0, 0];
  expect(() => readIpp(Uint8Array.from([...head, TAG.job, ...nameless, TAG.end]))).toThrow('without a name');
});

test('collections within collections without end are refused', () => {
  const open = [TAG.begin, 0, 0, 0, 0];
  const member = [TAG.member, 0, 0, 0, 1, 109];
  const deep = Array.from({ length: 40 }, () => [...open, ...member]).flat();
  expect(() => readIpp(Uint8Array.from([1, 1, 0, 2, 0, 0, 0, 1, TAG.job, ...deep]))).toThrow('too deeply');
});
