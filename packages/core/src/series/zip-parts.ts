/**
 * Parts of a ZIP file (APPNOTE 6.3, sections 4.3 and 4.4), unpacked in pieces. The directory at the end says what is
 * there; what it says of sizes is checked while unpacking, sums (CRC-32) after it. Not read: ZIP64, encrypted parts.
 */
import { Inflate } from 'fflate';
import { InputError, LimitError } from '../errors/index.ts';

/** A file within a zip file, unpacked only when it is asked for. */
export interface ZipPart {
  readonly name: string;
  readonly method: number;
  readonly isEncrypted: boolean;
  readonly sum: number;
  readonly packedSize: number;
  readonly size: number;
  readonly at: number;
}

/** What all parts together may unpack to. */
export const MOST_UNPACKED = 200_000_000;
const PIECE = 65_536;

/**
 * A workbook that is broken, said in one way.
 * @param what is wrong, to follow “The workbook is damaged:”
 */
export const damaged = (what: string): InputError =>
  new InputError('damaged', `The workbook is damaged: ${what}. Open it where it was made and save it again, or ask for it once more.`);

function latin(bytes: Uint8Array): string {
  return String.fromCharCode(...bytes.subarray(0, 4096));
}

/** @throws InputError `input.damaged` when the directory is missing or leads nowhere */
export function zipParts(bytes: Uint8Array): ZipPart[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let end = bytes.length - 22;
  const first = Math.max(0, end - 65_535);
  while (end >= first && view.getUint32(end, true) !== 0x06054b50) end--;
  if (end < first) throw damaged('its end is missing');
  const count = view.getUint16(end + 10, true);
  let at = view.getUint32(end + 16, true);
  const parts: ZipPart[] = [];
  for (let k = 0; k < count; k++) {
    if (at + 46 > bytes.length || view.getUint32(at, true) !== 0x02014b50) throw damaged('its directory is broken');
    const nameLength = view.getUint16(at + 28, true);
    parts.push({
      name: latin(bytes.subarray(at + 46, at + 46 + nameLength)),
      method: view.getUint16(at + 10, true),
      isEncrypted: (view.getUint16(at + 8, true) & 1) !== 0,
      sum: view.getUint32(at + 16, true),
      packedSize: view.getUint32(at + 20, true),
      size: view.getUint32(at + 24, true),
      at: view.getUint32(at + 42, true),
    });
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
  }
  return parts;
}

const SUMS = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c;
});

/**
 * Unpacks a part piece by piece.
 * @param budget how much may still be unpacked, all parts together
 * @throws InputError `input.damaged`, LimitError `limit.too-large`
 */
export function unpackPart(bytes: Uint8Array, part: ZipPart, budget: { left: number }, take: (piece: Uint8Array) => void): void {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (part.isEncrypted) throw new InputError('wrong-kind', 'The workbook is locked with a password. Save it without one.');
  if (part.at + 30 > bytes.length || view.getUint32(part.at, true) !== 0x04034b50) throw damaged('a part of it is missing');
  const start = part.at + 30 + view.getUint16(part.at + 26, true) + view.getUint16(part.at + 28, true);
  if (start + part.packedSize > bytes.length) throw damaged('a part of it is cut off');
  const tooLarge = (): LimitError =>
    new LimitError(
      'too-large',
      `The workbook unpacks to more than ${MOST_UNPACKED / 1e6} MB. Save the list alone, as CSV or in a new workbook.`,
    );
  if (part.size > budget.left) throw tooLarge();
  let [sum, size] = [0xffffffff, 0];
  const check = (piece: Uint8Array): void => {
    budget.left -= piece.length;
    size += piece.length;
    if (budget.left < 0) throw tooLarge();
    if (size > part.size) throw damaged('a part of it is larger than it says');
    for (const b of piece) sum = (SUMS[(sum ^ b) & 0xff] as number) ^ (sum >>> 8);
    take(piece);
  };
  const packed = bytes.subarray(start, start + part.packedSize);
  if (part.method === 0) check(packed);
  else if (part.method === 8) inflatePieces(packed, check);
  else throw damaged('a part of it is packed in an unknown way');
  if (size !== part.size || (sum ^ 0xffffffff) >>> 0 !== part.sum) throw damaged('a part of it has changed');
}

function inflatePieces(packed: Uint8Array, take: (piece: Uint8Array) => void): void {
  const inflate = new Inflate();
  inflate.ondata = take;
  try {
    for (let i = 0; i < packed.length; i += PIECE) inflate.push(packed.subarray(i, i + PIECE), i + PIECE >= packed.length);
  } catch (error) {
    if (error instanceof InputError || error instanceof LimitError) throw error;
    throw damaged('a part of it cannot be unpacked');
  }
}
