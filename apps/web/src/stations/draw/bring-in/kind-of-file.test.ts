/** Files are what lies in them; a name decides only where the content leaves a doubt. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readFileSync, readdirSync } from 'node:fs';
import { kindOfFile } from './kind-of-file.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

describe('what a file is', () => {
  test.each([
    ['svg', '<?xml version="1.0"?>\n<svg xmlns="http://www.w3.org/2000/svg"/>'],
    ['svg', '<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "">'],
    ['svg', '\ufeff<ns0:svg xmlns:ns0="http://www.w3.org/2000/svg"/>'],
    ['pdf', '%PDF-1.7\n%âãÏÓ'],
    ['pdf', `${'junk before it '.repeat(60)}%PDF-1.4`],
    ['dxf', '  0\r\nSECTION\r\n  2\r\nHEADER'],
    ['dxf', '999\nmade by hand\n  0\nSECTION\n'],
    ['dxf', 'AutoCAD Binary DXF\r\n\u001a\u0000'],
    ['hpgl', 'IN;SP1;PU0,0;PD400,0,400,400;PU;'],
    ['hpgl', '\u001b%-1BIN;SP1;PA0,0;'],
    ['unknown', 'Dear sir, attached is our logo.'],
    ['unknown', ''],
  ])('%s by its content, whatever it is called', (kind, text) => {
    for (const name of ['file', 'file.bin', 'file.txt', 'a.b.c']) expect(kindOfFile(bytes(text), name)).toBe(kind);
  });

  test('pictures are told by their first bytes, also under a drawing’s name', () => {
    for (const file of readdirSync('docs/screenshots'))
      expect(kindOfFile(new Uint8Array(readFileSync(`docs/screenshots/${file}`)), 'logo.svg')).toBe('picture');
    for (const [kind, head] of [
      ['picture', [0xff, 0xd8, 0xff, 0xe0]],
      ['tiff', [0x49, 0x49, 0x2a, 0]],
      ['tiff', [0x4d, 0x4d, 0, 0x2b]],
    ] as const)
      expect(kindOfFile(new Uint8Array([...head, 1, 2, 3]), 'logo.pdf')).toBe(kind);
  });

  test('where the content says nothing the ending does, in any case of letters; a name with no ending says nothing', () => {
    const noise = new Uint8Array([1, 2, 3, 4]);
    for (const [name, kind] of [
      ['a.SVG', 'svg'],
      ['a.Pdf', 'pdf'],
      ['a.plt', 'hpgl'],
      ['a.hpg', 'hpgl'],
      ['svg', 'unknown'],
      ['a.svg.exe', 'unknown'],
    ] as const)
      expect([name, kindOfFile(noise, name)]).toEqual([name, kind]);
  });

  test('any bytes are something, and never take long', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 6000 }), fc.string(), (noise, name) => typeof kindOfFile(noise, name) === 'string'));
    // what would make a careless pattern look back and forth
    expect(kindOfFile(bytes('999\n'.repeat(1500)), 'a')).toBe('unknown');
    expect(kindOfFile(bytes(' '.repeat(6000)), 'a')).toBe('unknown');
  });
});
