/**
 * Bytes of a text file to text. Certain: a byte order mark; zero bytes at every other place (UTF-16); valid UTF-8 of the
 * whole file. Otherwise one byte a letter, and a guess: the file is read as Windows-1252, Windows-1250 and ISO-8859-2,
 * and the reading wins whose letters stand in words; signs inside words, capitals after small letters and controls count
 * against. A guess is always said, so that the user can choose. Tables: Unicode consortium's CP1252, CP1250, 8859-2.
 */
import { InputError } from '../errors/index.ts';
import { decodeUtf8 } from '../format/decode-text.ts';

/** Encodings that lists come in. */
export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252' | 'windows-1250' | 'iso-8859-2';

/** A text, and how it was read. */
export interface DecodedText {
  readonly text: string;
  readonly encoding: Encoding;
  readonly guessed: boolean;
}

const LATIN_1_UPPER = String.fromCharCode(...Array.from({ length: 96 }, (_, i) => 0xa0 + i));
const CONTROLS = String.fromCharCode(...Array.from({ length: 32 }, (_, i) => 0x80 + i));
/** Letters of the bytes from 128 on; bytes that a table leaves out stand for controls. */
const TABLES: Record<'windows-1252' | 'windows-1250' | 'iso-8859-2', string> = {
  'windows-1252': '€\x81‚ƒ„…†‡ˆ‰Š‹Œ\x8dŽ\x8f\x90‘’“”•–—˜™š›œ\x9džŸ' + LATIN_1_UPPER,
  'windows-1250':
    '€\x81‚\x83„…†‡\x88‰Š‹ŚŤŽŹ\x90‘’“”•–—\x98™š›śťžź\xa0ˇ˘Ł¤Ą¦§¨©Ş«¬\xad®Ż°±˛ł´µ¶·¸ąş»Ľ˝ľżŔÁÂĂÄĹĆÇČÉĘËĚÍÎĎĐŃŇÓÔŐÖ×ŘŮÚŰÜÝŢßŕáâăäĺćçčéęëěíîďđńňóôőö÷řůúűüýţ˙',
  'iso-8859-2': CONTROLS + '\xa0Ą˘Ł¤ĽŚ§¨ŠŞŤŹ\xadŽŻ°ą˛ł´ľśˇ¸šşťź˝žżŔÁÂĂÄĹĆÇČÉĘËĚÍÎĎĐŃŇÓÔŐÖ×ŘŮÚŰÜÝŢßŕáâăäĺćçčéęëěíîďđńňóôőö÷řůúűüýţ˙',
};
const CHUNK = 8192;

function fromCodes(count: number, code: (i: number) => number): string {
  const parts: string[] = [];
  for (let at = 0; at < count; at += CHUNK)
    parts.push(String.fromCharCode(...Array.from({ length: Math.min(CHUNK, count - at) }, (_, i) => code(at + i))));
  return parts.join('');
}

function decodeTable(bytes: Uint8Array, table: string): string {
  return fromCodes(bytes.length, (i) => {
    const b = bytes[i] as number;
    return b < 128 ? b : table.charCodeAt(b - 128);
  });
}

function decode16(bytes: Uint8Array, littleEndian: boolean): string {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return fromCodes(bytes.length >> 1, (i) => view.getUint16(2 * i, littleEndian));
}

/** How many bytes a character takes that begins with this one; 0 when none does. */
function lengthByLead(lead: number): number {
  if (lead < 0x80) return 1;
  if (lead < 0xc2 || lead >= 0xf5) return 0;
  return lead < 0xe0 ? 2 : lead < 0xf0 ? 3 : 4;
}

/** Where the second byte is not from 80 to BF: what is outside is overlong, half of a pair, or beyond the last character. */
const SECOND: Record<number, readonly [number, number]> = {
  0xe0: [0xa0, 0xbf],
  0xed: [0x80, 0x9f],
  0xf0: [0x90, 0xbf],
  0xf4: [0x80, 0x8f],
};

/** How many bytes the character takes that begins at `at`; 0 when it is not valid UTF-8 (RFC 3629), -1 when it is cut off. */
function characterLength(bytes: Uint8Array, at: number): number {
  const lead = bytes[at] as number;
  const length = lengthByLead(lead);
  const second = SECOND[lead];
  for (let k = 1; k < length; k++) {
    const next = bytes[at + k];
    if (next === undefined) return -1;
    if ((next & 0xc0) !== 0x80) return 0;
    if (k === 1 && second && (next < second[0] || next > second[1])) return 0;
  }
  return length;
}

/** UTF-8 in pieces: what a piece ends in the middle of waits for the next; wrong bytes become U+FFFD. */
export class Utf8Reader {
  private kept: Uint8Array = new Uint8Array(0);
  read(piece: Uint8Array): string {
    const bytes = new Uint8Array(this.kept.length + piece.length);
    bytes.set(this.kept);
    bytes.set(piece, this.kept.length);
    const parts: string[] = [];
    let codes: number[] = [];
    let at = 0;
    while (at < bytes.length) {
      const length = characterLength(bytes, at);
      if (length < 0) break;
      codes.push(length === 0 ? 0xfffd : codeAt(bytes, at, length));
      at += length || 1;
      if (codes.length < CHUNK) continue;
      parts.push(String.fromCodePoint(...codes));
      codes = [];
    }
    this.kept = bytes.slice(at);
    return parts.join('') + String.fromCodePoint(...codes);
  }
}

function codeAt(bytes: Uint8Array, at: number, length: number): number {
  const lead = bytes[at] as number;
  let code = length === 1 ? lead : lead & (0xff >> (length + 1));
  for (let k = 1; k < length; k++) code = (code << 6) | ((bytes[at + k] as number) & 0x3f);
  return code;
}

/** Which half of the pairs is zero, when that tells UTF-16; undefined for anything else. */
function zerosTell(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | undefined {
  const zeros = [0, 0];
  for (let i = 0; i < bytes.length; i++) if (bytes[i] === 0) zeros[i % 2] = (zeros[i % 2] as number) + 1;
  const [even = 0, odd = 0] = zeros;
  const pairs = bytes.length / 2;
  if (Math.max(even, odd) < pairs * 0.1 || Math.min(even, odd) * 8 > Math.max(even, odd)) return undefined;
  return odd > even ? 'utf-16le' : 'utf-16be';
}

/** Marks that stand at words without being letters. */
const AT_WORDS = /[\u2010-\u203a«»…·\xa0\xad€°²³%&/]/u;
const LETTER = /\p{L}/u;
const isLetter = (c: string | undefined): boolean => c !== undefined && LETTER.test(c) && !'ªºµ'.includes(c);

/** How well a reading stands as words: letters among letters for, signs inside words and controls against. */
function wordScore(text: string): number {
  let score = 0;
  for (let i = 0; i < text.length; i++) {
    const c = text[i] as string;
    if (c < '\x80') continue;
    const [before, after] = [text[i - 1], text[i + 1]];
    const beside = Number(isLetter(before)) + Number(isLetter(after));
    if (c <= '\x9f') score -= 10;
    else if (isLetter(c)) {
      score += beside > 0 ? 1 : 0;
      const bigInside = c !== c.toLowerCase() && before !== undefined && isLetter(before) && before !== before.toUpperCase();
      if (bigInside) score -= 2;
    } else if (!AT_WORDS.test(c)) score -= beside === 2 ? 3 : beside;
  }
  return score;
}

function guess(bytes: Uint8Array): DecodedText {
  const readings = (['windows-1252', 'windows-1250', 'iso-8859-2'] as const).map((encoding) => {
    const text = decodeTable(bytes, TABLES[encoding]);
    return { text, encoding, guessed: true, score: wordScore(text) };
  });
  const { score: _, ...best } = readings.reduce((a, b) => (b.score > a.score ? b : a));
  return best;
}

/** @returns the text as it stands after a byte order mark, in an encoding that is told; undefined when it is not so written */
function decodeAs(bytes: Uint8Array, encoding: Encoding): string | undefined {
  if (encoding === 'utf-8') return decodeUtf8(bytes);
  if (encoding === 'utf-16le' || encoding === 'utf-16be') return decode16(bytes, encoding === 'utf-16le');
  return decodeTable(bytes, TABLES[encoding]);
}

const MARKS: readonly [Encoding, readonly number[]][] = [
  ['utf-8', [0xef, 0xbb, 0xbf]],
  ['utf-16le', [0xff, 0xfe]],
  ['utf-16be', [0xfe, 0xff]],
];

/**
 * @param told the encoding, when the user says it
 * @throws InputError `input.binary` for bytes that are no text, `input.damaged` for text that is not written as its mark says
 */
export function decodeText(bytes: Uint8Array, told?: Encoding): DecodedText {
  const mark = MARKS.find(([, start]) => start.every((b, i) => bytes[i] === b));
  const body = mark ? bytes.subarray(mark[1].length) : bytes;
  const certain = told ?? mark?.[0] ?? zerosTell(bytes);
  if (certain !== undefined) {
    const text = decodeAs(body, certain);
    if (text === undefined) throw new InputError('damaged', 'The file is not the Unicode text that it says it is. Save it again as text.');
    return refuseBinary({ text, encoding: certain, guessed: false });
  }
  const utf8 = decodeUtf8(bytes);
  return refuseBinary(utf8 === undefined ? guess(bytes) : { text: utf8, encoding: 'utf-8', guessed: false });
}

/** Half of a pair of UTF-16 that stands alone. */
const LONE_HALF = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;
/** Controls that text files have: tab, line feed, form feed, return, and the end mark of old ones. */
const CONTROLS_OF_TEXT = new Set([0x09, 0x0a, 0x0c, 0x0d, 0x1a]);

/** A control in a hundred characters is no list any more, and a zero never. */
function refuseBinary(decoded: DecodedText): DecodedText {
  const { text } = decoded;
  let controls = text.match(LONE_HALF)?.length ?? 0;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code < 32 && !CONTROLS_OF_TEXT.has(code)) controls += code === 0 ? text.length : 1;
  }
  if (controls * 100 > text.length)
    throw new InputError('binary', 'This file holds no text. A list is a text file (CSV, TXT) or a workbook (XLSX).');
  return decoded;
}
