/**
 * XML to a small tree of elements, for SVG. Parsing by saxes (XML 1.0, namespaces). Hostile input: limits on size,
 * depth, elements and entity expansion; external entities and document types are never fetched; scripts are text.
 * Encodings: UTF-8, UTF-16 with or without a mark, and Latin-1 when the declaration says so.
 */
import { SaxesParser } from 'saxes';
import { InputError, LimitError } from '../../errors/index.ts';

/** An element with its attributes and what is in it. */
export interface XmlElement {
  readonly name: string;
  /** The element's namespace is SVG's, or none is given anywhere. */
  readonly isSvg: boolean;
  /** Local names; `xlink:href` as `href` when there is no plain one. */
  readonly attributes: Readonly<Record<string, string>>;
  readonly children: XmlElement[];
  readonly parent: XmlElement | undefined;
  /** Text between the tags, its own only, in order with `null` for each child element. */
  readonly texts: (string | null)[];
}

const SVG = 'http://www.w3.org/2000/svg';
const XLINK = 'http://www.w3.org/1999/xlink';
const MOST_BYTES = 200 * 1024 * 1024;
const MOST_ELEMENTS = 1_000_000;
const DEEPEST = 2000;
const LONGEST_ENTITY = 100_000;

function decode16(bytes: Uint8Array, littleEndian: boolean): string {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts: string[] = [];
  const codes: number[] = [];
  for (let i = 0; i + 1 < bytes.length; i += 2) {
    codes.push(view.getUint16(i, littleEndian));
    if (codes.length === 8192) parts.push(String.fromCharCode(...codes.splice(0)));
  }
  return parts.join('') + String.fromCharCode(...codes);
}

function decode8(bytes: Uint8Array): string {
  const parts: string[] = [];
  for (let i = 0; i < bytes.length; i += 8192) parts.push(String.fromCharCode(...bytes.subarray(i, i + 8192)));
  return parts.join('');
}

/** How many bytes follow the first one of a letter; -1 when it begins none. */
function followers(first: number): number {
  if (first < 0x80) return 0;
  if (first < 0xc2 || first >= 0xf5) return -1;
  return first < 0xe0 ? 1 : first < 0xf0 ? 2 : 3;
}

/** The letter that begins at `i` in UTF-8. @returns undefined for wrong bytes */
function letterAt(bytes: Uint8Array, i: number): { code: number; length: number } | undefined {
  const first = bytes[i] ?? 0;
  const more = followers(first);
  if (more < 0) return undefined;
  let code = more === 0 ? first : first & (0x3f >> more);
  for (let k = 1; k <= more; k++) {
    const next = bytes[i + k] ?? 0;
    if ((next & 0xc0) !== 0x80) return undefined;
    code = (code << 6) | (next & 0x3f);
  }
  return code <= 0x10ffff ? { code, length: more + 1 } : undefined;
}

/** UTF-8 (RFC 3629) to text; wrong bytes become U+FFFD. */
function decodeUtf8(bytes: Uint8Array): string {
  const parts: string[] = [];
  const codes: number[] = [];
  for (let i = 0; i < bytes.length;) {
    const { code, length } = letterAt(bytes, i) ?? { code: 0xfffd, length: 1 };
    codes.push(code);
    i += length;
    if (codes.length === 8192) parts.push(String.fromCodePoint(...codes.splice(0)));
  }
  return parts.join('') + String.fromCodePoint(...codes);
}

/** First bytes of a text and how the rest is written. */
const BEGINNINGS = [
  { bytes: [0xff, 0xfe], kept: 0, read: (bytes: Uint8Array) => decode16(bytes, true) },
  { bytes: [0xfe, 0xff], kept: 0, read: (bytes: Uint8Array) => decode16(bytes, false) },
  { bytes: [0x3c, 0x00], kept: 2, read: (bytes: Uint8Array) => decode16(bytes, true) },
  { bytes: [0x00, 0x3c], kept: 2, read: (bytes: Uint8Array) => decode16(bytes, false) },
  { bytes: [0xef, 0xbb, 0xbf], kept: 0, read: asDeclared },
];

/** By what the document says of itself; UTF-8 when it says nothing. */
function asDeclared(bytes: Uint8Array): string {
  const declared = /encoding\s*=\s*["']([A-Za-z0-9._-]+)/.exec(decode8(bytes.subarray(0, 200)))?.[1]?.toLowerCase() ?? 'utf-8';
  return /^(iso-8859-1|iso-8859-15|windows-1252|latin1|us-ascii)$/.test(declared) ? decode8(bytes) : decodeUtf8(bytes);
}

function textOf(bytes: Uint8Array): string {
  const begins = BEGINNINGS.find((one) => one.bytes.every((byte, i) => bytes[i] === byte));
  return begins ? begins.read(bytes.subarray(begins.bytes.length - begins.kept)) : asDeclared(bytes);
}

/** Internal entities of a document type, fully expanded. External ones are passed over. @throws LimitError for a bomb */
function entitiesOf(doctype: string): Record<string, string> {
  const raw = new Map<string, string>();
  for (const [, name, , value] of doctype.matchAll(/<!ENTITY\s+([\w.:-]+)\s+(["'])([\s\S]*?)\2\s*>/g)) if (name) raw.set(name, value ?? '');
  const expand = (value: string, depth: number): string => {
    if (depth > 16) throw new LimitError('svg', 'The file defines entities that hold one another too deeply.');
    const text = value.replace(/&([\w.:-]+);/g, (whole, name: string) => (raw.has(name) ? expand(raw.get(name) ?? '', depth + 1) : whole));
    if (text.length > LONGEST_ENTITY) throw new LimitError('svg', 'The file defines entities that would unfold without end.');
    return text;
  };
  return Object.fromEntries([...raw].map(([name, value]) => [name, expand(value, 0)]));
}

function attributesOf(
  attributes: Readonly<Record<string, { local: string; prefix: string; uri: string; value: string }>>,
): Record<string, string> {
  const out: Record<string, string> = {};
  for (const { local, prefix, uri, value } of Object.values(attributes)) {
    if (prefix === '' || prefix === 'xml') out[local] = value;
    else if (uri === XLINK && local === 'href') out.href ??= value;
  }
  return out;
}

/**
 * @returns the root element
 * @throws InputError `input.svg` when it is no XML; LimitError `limit.svg`
 */
export function parseXml(bytes: Uint8Array): { root: XmlElement; broken: string | undefined } {
  if (bytes.length > MOST_BYTES) throw new LimitError('svg', 'The file is larger than 200 MB.');
  const text = textOf(bytes);
  const parser = new SaxesParser({ xmlns: true, position: false });
  let root: XmlElement | undefined;
  let current: XmlElement | undefined;
  let count = 0;
  let depth = 0;
  let broken: string | undefined;
  // prefixes that nobody declared are common in files from drawing programs: they are taken as foreign
  parser.on('doctype', (doctype) => Object.assign(parser.ENTITIES, entitiesOf(doctype)));
  parser.on('opentag', (tag) => {
    if (++count > MOST_ELEMENTS) throw new LimitError('svg', `The file has more than ${MOST_ELEMENTS} elements.`);
    if (++depth > DEEPEST) throw new LimitError('svg', `The file's groups are nested more than ${DEEPEST} deep.`);
    const isSvg = tag.uri === SVG || (tag.uri === '' && tag.prefix === '');
    const element: XmlElement = {
      name: tag.local,
      isSvg,
      attributes: attributesOf(tag.attributes),
      children: [],
      parent: current,
      texts: [],
    };
    current?.children.push(element);
    current?.texts.push(null);
    root ??= element;
    current = element;
  });
  parser.on('closetag', () => {
    depth--;
    current = current?.parent;
  });
  parser.on('text', (piece) => current?.texts.push(piece));
  parser.on('cdata', (piece) => current?.texts.push(piece));
  parser.on('error', (error) => {
    broken ??= error.message;
    // an undeclared prefix is no reason to stop; anything else ends the reading with what is there
    if (!/unbound namespace prefix/.test(error.message)) throw new BrokenXml(error.message);
  });
  try {
    parser.write(text).close();
  } catch (error) {
    if (error instanceof LimitError) throw error;
    broken = error instanceof Error ? error.message : String(error);
  }
  if (!root)
    throw new InputError(
      'svg',
      'This is not an SVG file: what it holds is not written as SVG is. Open it in what it was made with, and save it as SVG.',
    );
  return { root, broken: broken && /unbound namespace prefix/.test(broken) ? undefined : broken };
}

class BrokenXml extends Error {}

/** All text in an element, its children's included. */
export const textContent = (element: XmlElement): string => {
  let child = 0;
  return element.texts.map((piece) => piece ?? textContent(element.children[child++] as XmlElement)).join('');
};
