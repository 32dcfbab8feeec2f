/**
 * WOFF 1.0 (W3C Recommendation, 2012) to the sfnt inside it. Anything that is an sfnt already passes.
 * Hostile input: every offset and length is checked, the unpacked size is limited.
 */
import { unzlibSync } from 'fflate';
import { InputError, LimitError } from '../errors/index.ts';

const WOFF = 0x774f4646;
const WOFF2 = 0x774f4632;
const SFNT = new Set([0x00010000, 0x4f54544f, 0x74727565, 0x74746366]);
const MOST_TABLES = 128;
const MOST_BYTES = 64 * 1024 * 1024;

interface Table {
  tag: number;
  checksum: number;
  data: Uint8Array;
}

function notAFont(why: string): InputError {
  return new InputError('font', `This file is not a font that can be read: ${why}.`);
}

function readTable(bytes: Uint8Array, view: DataView, entry: number): Table {
  const offset = view.getUint32(entry + 4);
  const packed = view.getUint32(entry + 8);
  const length = view.getUint32(entry + 12);
  if (offset + packed > bytes.length || packed > length || length > MOST_BYTES)
    throw notAFont('its table directory points outside of the file');
  const raw = bytes.subarray(offset, offset + packed);
  let data = raw;
  if (packed < length) {
    try {
      data = unzlibSync(raw, { out: new Uint8Array(length) });
    } catch {
      throw notAFont('a packed table is damaged');
    }
  }
  if (data.length !== length) throw notAFont('a packed table has the wrong size');
  return { tag: view.getUint32(entry), checksum: view.getUint32(entry + 16), data };
}

function writeSfnt(flavour: number, tables: readonly Table[]): Uint8Array {
  const n = tables.length;
  const padded = (size: number): number => (size + 3) & ~3;
  const out = new Uint8Array(12 + 16 * n + tables.reduce((sum, t) => sum + padded(t.data.length), 0));
  const view = new DataView(out.buffer);
  const power = Math.floor(Math.log2(n));
  view.setUint32(0, flavour);
  view.setUint16(4, n);
  view.setUint16(6, 16 * 2 ** power);
  view.setUint16(8, power);
  view.setUint16(10, 16 * (n - 2 ** power));
  let position = 12 + 16 * n;
  tables.forEach((table, i) => {
    const entry = 12 + 16 * i;
    view.setUint32(entry, table.tag);
    view.setUint32(entry + 4, table.checksum);
    view.setUint32(entry + 8, position);
    view.setUint32(entry + 12, table.data.length);
    out.set(table.data, position);
    position += padded(table.data.length);
  });
  return out;
}

/**
 * @param bytes a TTF, OTF or WOFF file
 * @returns the sfnt bytes (the same array when it was one)
 * @throws InputError `input.font`, LimitError `limit.font`
 */
export function toSfnt(bytes: Uint8Array): Uint8Array {
  if (bytes.length > MOST_BYTES) throw new LimitError('font', `The font has ${bytes.length} bytes; the most is ${MOST_BYTES}.`);
  if (bytes.length < 44) throw notAFont('it is too short');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const magic = view.getUint32(0);
  if (SFNT.has(magic)) return bytes;
  if (magic === WOFF2) throw notAFont('WOFF2 is not read yet; use its TTF, OTF or WOFF form');
  if (magic !== WOFF) throw notAFont('it does not begin like a TTF, OTF or WOFF file');
  const count = view.getUint16(12);
  if (count === 0 || count > MOST_TABLES || 44 + 20 * count > bytes.length) throw notAFont('its table directory is damaged');
  if (view.getUint32(16) > MOST_BYTES) throw new LimitError('font', 'The font unpacks to more than 64 MB.');
  const tables = Array.from({ length: count }, (_, i) => readTable(bytes, view, 44 + 20 * i));
  return writeSfnt(view.getUint32(4), tables);
}
