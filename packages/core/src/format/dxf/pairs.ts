/**
 * DXF as pairs of a group code and a value (Autodesk, DXF Reference, R2010 and before): text files in the code page
 * that they name or UTF-8, and binary ones. Pairs are gathered to records (an entity and its groups) by section.
 * Hostile input: nothing is trusted; what breaks off ends the reading there. 200 MB at most.
 */
import { InputError, LimitError } from '../../errors/index.ts';
import { decodeText, decodeUtf8 } from '../decode-text.ts';

/** A group code and its value. */
export interface Pair {
  readonly code: number;
  readonly value: string;
}

const MOST_BYTES = 200 * 1024 * 1024;
const SENTINEL = 'AutoCAD Binary DXF\r\n\u001a\u0000';

/** Code pages as the platform's decoder calls them. */
const CODE_PAGES: Record<string, string> = {
  ANSI_874: 'windows-874',
  ANSI_932: 'shift_jis',
  ANSI_936: 'gbk',
  ANSI_949: 'euc-kr',
  ANSI_950: 'big5',
  ...Object.fromEntries([1250, 1251, 1252, 1253, 1254, 1255, 1256, 1257, 1258].map((n) => [`ANSI_${n}`, `windows-${n}`])),
};

const latin = (bytes: Uint8Array): string => decodeText(bytes, 'windows-1252');

function decode(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return decodeText(bytes, 'utf-16le');
  const head = latin(bytes.subarray(0, 20_000));
  const page = /\$DWGCODEPAGE\s+3\s+(\S+)/.exec(head)?.[1]?.toUpperCase() ?? '';
  const release = Number(/\$ACADVER\s+1\s+AC(\d+)/.exec(head)?.[1] ?? 0);
  const utf8 = release >= 1021 || page === 'UTF-8' ? decodeText(bytes) : CODE_PAGES[page] === undefined ? decodeUtf8(bytes) : undefined;
  return utf8 ?? decodeText(bytes, CODE_PAGES[page] ?? 'windows-1252');
}

/**
 * Characters that older releases write as \U+XXXX.
 * @returns other characters as they are
 */
export const plainText = (text: string): string =>
  text.replace(/\\U\+([0-9A-Fa-f]{4})/g, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)));

function* textPairs(text: string): Generator<Pair> {
  let from = 0;
  const line = (): string | undefined => {
    if (from >= text.length) return undefined;
    const end = text.indexOf('\n', from);
    const one = text.slice(from, end < 0 ? text.length : end);
    from = end < 0 ? text.length : end + 1;
    return one.endsWith('\r') ? one.slice(0, -1) : one;
  };
  for (;;) {
    const [code, value] = [line(), line()];
    if (code === undefined || value === undefined || !/^\s*-?\d{1,4}\s*$/.test(code)) return;
    yield { code: Number(code), value };
  }
}

type Kind = 'text' | 'double' | 'int16' | 'int32' | 'int64' | 'byte' | 'chunk';

/** Kinds of values by the first code of each range (DXF Reference, Group Code Value Types). */
const KINDS: readonly (readonly [number, Kind])[] = [
  [0, 'text'],
  [10, 'double'],
  [60, 'int16'],
  [90, 'int32'],
  [100, 'text'],
  [110, 'double'],
  [160, 'int64'],
  [170, 'int16'],
  [210, 'double'],
  [270, 'int16'],
  [290, 'byte'],
  [300, 'text'],
  [310, 'chunk'],
  [320, 'text'],
  [370, 'int16'],
  [390, 'text'],
  [400, 'int16'],
  [410, 'text'],
  [420, 'int32'],
  [430, 'text'],
  [440, 'int32'],
  [460, 'double'],
  [470, 'text'],
  [1004, 'chunk'],
  [1005, 'text'],
  [1010, 'double'],
  [1060, 'int16'],
  [1071, 'int32'],
];

const kindOf = (code: number): Kind => KINDS.findLast(([first]) => code >= first)?.[1] ?? 'text';

function* binaryPairs(bytes: Uint8Array): Generator<Pair> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let at = SENTINEL.length;
  // R12 has codes of one byte, later releases of two: the first pair is always 0 SECTION
  const isShort = bytes[at + 1] !== 0;
  const code = (): number => {
    if (!isShort) return view.getInt16((at += 2) - 2, true);
    const one = view.getUint8(at++);
    return one === 255 ? view.getInt16((at += 2) - 2, true) : one;
  };
  const value = (kind: Kind): string => {
    switch (kind) {
      case 'double':
        return String(view.getFloat64((at += 8) - 8, true));
      case 'int16':
        return String(view.getInt16((at += 2) - 2, true));
      case 'int32':
        return String(view.getInt32((at += 4) - 4, true));
      case 'int64':
        return String(view.getBigInt64((at += 8) - 8, true));
      case 'byte':
        return String(view.getUint8(at++));
      case 'chunk':
        at += 1 + view.getUint8(at);
        return '';
      case 'text': {
        const end = bytes.indexOf(0, at);
        if (end < 0) throw new RangeError('text without an end');
        const text = decodeUtf8(bytes.subarray(at, end)) ?? latin(bytes.subarray(at, end));
        at = end + 1;
        return text;
      }
    }
  };
  try {
    while (at < bytes.length) {
      const group = code();
      yield { code: group, value: value(kindOf(group)) };
    }
  } catch (error) {
    if (!(error instanceof RangeError)) throw error;
  }
}

/** One entity, block, table row or the like: its type and its groups in order. */
export class DxfRecord {
  readonly type: string;
  readonly pairs: Pair[] = [];

  constructor(type: string) {
    this.type = type;
  }

  text(code: number, otherwise = ''): string {
    return this.pairs.find((pair) => pair.code === code)?.value ?? otherwise;
  }

  /** @returns NaN for what is no number */
  number(code: number, otherwise = 0): number {
    const found = this.pairs.find((pair) => pair.code === code);
    return found ? Number(found.value) : otherwise;
  }

  numbers(code: number): number[] {
    return this.pairs.filter((pair) => pair.code === code).map((pair) => Number(pair.value));
  }

  /** A long text in pieces (group 3) and its end (group 1). */
  longText(): string {
    return this.pairs
      .filter(({ code }) => code === 3 || code === 1)
      .map(({ value }) => value)
      .join('');
  }

  has(code: number): boolean {
    return this.pairs.some((pair) => pair.code === code);
  }
}

/** The parts of a file that are read. */
export interface DxfFile {
  readonly header: ReadonlyMap<string, string>;
  readonly layers: readonly DxfRecord[];
  /** By name; the first record of each is the block itself. */
  readonly blocks: ReadonlyMap<string, readonly DxfRecord[]>;
  readonly entities: readonly DxfRecord[];
  /** The file breaks off. */
  readonly isTorn: boolean;
}

interface Gathered {
  readonly header: Map<string, string>;
  readonly layers: DxfRecord[];
  readonly blocks: Map<string, DxfRecord[]>;
  readonly entities: DxfRecord[];
}

/** Puts a record where its section wants it. */
function keeper(into: Gathered): (record: DxfRecord, section: string) => void {
  let block: DxfRecord[] | undefined;
  return (record, section) => {
    if (section === 'ENTITIES') into.entities.push(record);
    else if (section === 'TABLES' && record.type === 'LAYER') into.layers.push(record);
    else if (section === 'BLOCKS') {
      if (record.type === 'BLOCK') block = [];
      if (record.type !== 'ENDBLK') block?.push(record);
      if (record.type === 'BLOCK') into.blocks.set(record.text(2).toLowerCase(), block as DxfRecord[]);
    }
  };
}

/** Takes pairs one after another: sections, the variables of the header, and records with all that belongs to them. */
class Sections {
  readonly into: Gathered = { header: new Map(), layers: [], blocks: new Map(), entities: [] };
  hasSeenOne = false;
  /** Of the section; '?' until it is named, '' between two. */
  private name = '';
  private variable = '';
  private record: DxfRecord | undefined;
  private readonly keep = keeper(this.into);

  /** @returns false at the end of the file */
  take({ code, value }: Pair): boolean {
    if (code === 0) return this.begin(value.trim().toUpperCase());
    if (this.name === '?' && code === 2) this.name = value.trim().toUpperCase();
    else if (this.name === 'HEADER') this.takeVariable(code, value.trim());
    else this.record?.pairs.push({ code, value: value.trimEnd() });
    return true;
  }

  private begin(type: string): boolean {
    if (this.record) this.keep(this.record, this.name);
    this.record = undefined;
    if (type === 'EOF') return false;
    if (type === 'SECTION') {
      this.hasSeenOne = true;
      this.name = '?';
    } else if (type === 'ENDSEC') this.name = '';
    else this.record = new DxfRecord(type);
    return true;
  }

  private takeVariable(code: number, value: string): void {
    if (code === 9) this.variable = value;
    else if (!this.into.header.has(this.variable)) this.into.header.set(this.variable, value);
  }

  /** What a file that is torn off within its entities still holds. */
  finish(): void {
    if (this.record && this.name === 'ENTITIES') this.keep(this.record, this.name);
  }
}

/**
 * @throws InputError `input.dxf` when it is no DXF; LimitError `limit.dxf`
 * @param bytes text or binary
 * @returns what lies in the sections that are read; `isTorn` when the file has no end
 */
export function parseDxf(bytes: Uint8Array): DxfFile {
  if (bytes.length > MOST_BYTES) throw new LimitError('dxf', 'The file is larger than 200 MB.');
  const isBinary = latin(bytes.subarray(0, SENTINEL.length)).startsWith('AutoCAD Binary DXF');
  const sections = new Sections();
  let isTorn = true;
  for (const pair of isBinary ? binaryPairs(bytes) : textPairs(decode(bytes)))
    if (!sections.take(pair)) {
      isTorn = false;
      break;
    }
  if (isTorn) sections.finish();
  if (!sections.hasSeenOne) throw new InputError('dxf', 'This is not a DXF file: it has no sections.');
  return { ...sections.into, isTorn };
}
