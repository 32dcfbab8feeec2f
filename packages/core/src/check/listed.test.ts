/** Findings that are not listed are told, and none that stops the job is lost among those that do not. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { boxShape, mapOutline, translation } from '../geometry/index.ts';
import { checkFilm, type CheckPart, type Finding } from './index.ts';
import { listed } from './listed.ts';

const finding = fc
  .record({ level: fc.constantFrom<Finding['level']>('stop', 'warning'), id: fc.integer({ min: 0, max: 999 }) })
  .map(({ level, id }): Finding => ({
    code: level === 'stop' ? 'missing-letters' : 'bump',
    level,
    text: `Number ${id}`,
    parts: [`item-${id}`],
  }));

test('every finding is listed or counted; stops come before all others where not all are listed', () => {
  fc.assert(
    fc.property(fc.array(finding, { maxLength: 40 }), fc.integer({ min: 1, max: 20 }), (found, most) => {
      const shown = listed(found, most);
      if (found.length <= most) return expect(shown).toEqual(found);
      expect(shown).toHaveLength(most);
      const said = Number(/^\d+/.exec(shown.at(-1)!.text)?.[0]);
      expect(shown.length - 1 + said).toBe(found.length);
      const stops = found.filter(({ level }) => level === 'stop');
      // what would weld or drop the parts of one finding must not be offered for those of all that are not listed
      expect(shown.at(-1)!.code).toBe('not-listed');
      for (const one of stops)
        expect(shown.some(({ level, parts }) => level === 'stop' && one.parts.every((id) => parts.includes(id)))).toBe(true);
      // a job that must not go out is stopped by what is listed, too
      expect(shown.some(({ level }) => level === 'stop')).toBe(stops.length > 0);
      expect(shown.slice(0, most - 1).filter(({ level }) => level === 'stop')).toEqual(stops.slice(0, most - 1));
    }),
  );
});

test('a film of a thousand small parts says how many there are', () => {
  const parts = Array.from({ length: 1000 }, (_, i): CheckPart => {
    return { id: `item-${i}`, name: `Dot ${i}`, outline: mapOutline(translation(10 * (i % 40), 10 * Math.floor(i / 40)), boxShape(1, 1)) };
  });
  const found = checkFilm(parts, { smallestPartMm: 2, thinnestMm: 0.5 });
  const tiny = found.filter(({ code }) => code === 'tiny-part');
  expect(tiny).toHaveLength(59);
  const others = found.filter(({ code }) => code === 'not-listed');
  expect(others.map(({ text }) => /^\d+/.exec(text)?.[0])).toEqual(['941']);
});
