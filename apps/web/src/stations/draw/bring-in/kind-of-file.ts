/** What a file is by what lies in it; its name only decides where the content leaves a doubt. */
import type { DrawingFile } from '@lorvek/computations';

export type KindOfFile = DrawingFile | 'picture' | 'tiff' | 'unknown';

const starts = (bytes: Uint8Array, ...codes: number[]): boolean => codes.every((code, i) => bytes[i] === code);

/** First bytes of the pictures that browsers show, and of TIFF. */
const SIGNATURES: readonly (readonly [KindOfFile, readonly number[]])[] = [
  ['picture', [0x89, 0x50, 0x4e, 0x47]],
  ['picture', [0xff, 0xd8, 0xff]],
  ['picture', [0x47, 0x49, 0x46, 0x38]],
  ['picture', [0x52, 0x49, 0x46, 0x46]],
  ['picture', [0x42, 0x4d]],
  ['tiff', [0x49, 0x49, 0x2a, 0]],
  ['tiff', [0x49, 0x49, 0x2b, 0]],
  ['tiff', [0x4d, 0x4d, 0, 0x2a]],
  ['tiff', [0x4d, 0x4d, 0, 0x2b]],
];

const PLOTTER = /^[\s%\-\d.()A-Z@:;]*?(?:IN|PU|PD|PA|SP|BP|PE)[\d\s,;-]/i;

/** What is said by words near the beginning. */
function kindOfWords(head: string): KindOfFile | undefined {
  if (head.slice(0, 1100).includes('%PDF-')) return 'pdf';
  if (/<svg[\s>:]|<!DOCTYPE svg|<[a-z][\w.-]*:svg[\s>]/i.test(head)) return 'svg';
  if (head.startsWith('AutoCAD Binary DXF') || /^(?:[ \t]*999[ \t]*\r?\n[^\n]*\n)*[ \t]*0[ \t]*\r?\nSECTION/.test(head)) return 'dxf';
  return PLOTTER.test(head.replaceAll('\u001b', '')) && !head.includes('<') ? 'hpgl' : undefined;
}

const ENDINGS: ReadonlyMap<string, KindOfFile> = new Map([
  ['svg', 'svg'],
  ['pdf', 'pdf'],
  ['dxf', 'dxf'],
  ['plt', 'hpgl'],
  ['hpgl', 'hpgl'],
  ['hpg', 'hpgl'],
]);

export function kindOfFile(bytes: Uint8Array, name: string): KindOfFile {
  const signed = SIGNATURES.find(([, codes]) => starts(bytes, ...codes));
  if (signed) return signed[0];
  const head = new TextDecoder('windows-1252').decode(bytes.subarray(0, 4096)).replace(/\0/g, '');
  const ending = /\.([a-z0-9]+)$/i.exec(name)?.[1]?.toLowerCase() ?? '';
  return kindOfWords(head) ?? ENDINGS.get(ending) ?? 'unknown';
}
