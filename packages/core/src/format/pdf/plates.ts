/**
 * Plates of pictures that are in inks of their own names (ISO 32000, 8.6.6: Separation and DeviceN, Indexed on them): the
 * samples are read from the file itself, for the parser of the page turns them into plain colours.
 * Not handled: such pictures in JPEG, JPEG 2000 or fax codings; they stay plain colours.
 */
import {
  decodePDFRawStream,
  PDFArray,
  PDFHexString,
  PDFName,
  PDFNumber,
  PDFRawStream,
  PDFString,
  type PDFContext,
  type PDFObject,
} from '@cantoo/pdf-lib';
import { inkPlan, separatedPixels, type PicturePlate } from '../tiff-inks.ts';

/** A picture taken apart. */
export interface PictureInPlates {
  readonly width: number;
  readonly height: number;
  /** RGBA of its process inks; undefined: it has none. */
  readonly base: Uint8ClampedArray | undefined;
  readonly plates: readonly PicturePlate[];
  /** There are more inks than plates: some are on none. */
  readonly isShort: boolean;
}

/** Names of the inks, and where samples are found in a table, how many inks an entry has. */
interface Space {
  readonly names: readonly string[];
  readonly table?: Uint8Array;
}

const MOST_PIXELS = 100_000_000;
const MOST_INKS = 12;
const MOST_TABLE_BYTES = 256 * MOST_INKS;

function bytesOf(object: PDFObject | undefined): Uint8Array | undefined {
  if (object instanceof PDFString || object instanceof PDFHexString) return object.asBytes();
  return object instanceof PDFRawStream ? Uint8Array.from(decodePDFRawStream(object).getBytes(MOST_TABLE_BYTES)) : undefined;
}

/** @returns undefined for any space that is not made of named inks */
function spaceOf(object: PDFObject | undefined, context: PDFContext): Space | undefined {
  const at = (list: PDFArray, i: number): PDFObject | undefined => (i < list.size() ? context.lookup(list.get(i)) : undefined);
  if (!(object instanceof PDFArray)) return undefined;
  const kind = at(object, 0);
  if (!(kind instanceof PDFName)) return undefined;
  if (kind.decodeText() === 'Indexed') {
    const base = spaceOf(at(object, 1), context);
    const table = bytesOf(at(object, 3));
    return base && table && !base.table ? { ...base, table } : undefined;
  }
  const named = at(object, 1);
  if (kind.decodeText() === 'Separation' && named instanceof PDFName) return { names: [named.decodeText()] };
  if (kind.decodeText() !== 'DeviceN' || !(named instanceof PDFArray) || named.size() > MOST_INKS) return undefined;
  return {
    names: Array.from({ length: named.size() }, (_, i) => at(named, i)).map((name) => (name instanceof PDFName ? name.decodeText() : '')),
  };
}

const isSpot = (name: string): boolean => !/^(cyan|magenta|yellow|black|none|all)?$/i.test(name);

/** Samples of so many bits, rows padded to whole bytes. */
function unpack(bytes: ArrayLike<number>, perRow: number, rows: number, bits: number): Uint16Array {
  const out = new Uint16Array(perRow * rows);
  const stride = Math.ceil((perRow * bits) / 8);
  for (let y = 0; y < rows; y++)
    for (let i = 0; i < perRow; i++) {
      if (bits === 16) out[y * perRow + i] = bytes[y * stride + 2 * i] ?? 0;
      else if (bits === 8) out[y * perRow + i] = bytes[y * stride + i] ?? 0;
      else out[y * perRow + i] = ((bytes[y * stride + ((i * bits) >> 3)] ?? 0) >> (8 - bits - ((i * bits) & 7))) & ((1 << bits) - 1);
    }
  return out;
}

/** @returns undefined when the picture has no ink of its own name, or its samples cannot be read */
export function platesOf(stream: PDFRawStream, context: PDFContext): PictureInPlates | undefined {
  const entry = (name: string, short: string): PDFObject | undefined => {
    const found = stream.dict.get(PDFName.of(name)) ?? stream.dict.get(PDFName.of(short));
    return found && context.lookup(found);
  };
  const number = (name: string, short: string): number => {
    const found = entry(name, short);
    return found instanceof PDFNumber ? found.asNumber() : 0;
  };
  try {
    const space = spaceOf(entry('ColorSpace', 'CS'), context);
    if (!space?.names.some(isSpot)) return undefined;
    const [width, height, bits] = [number('Width', 'W'), number('Height', 'H'), number('BitsPerComponent', 'BPC') || 8];
    if (!(width > 0 && height > 0) || width * height > MOST_PIXELS || ![1, 2, 4, 8, 16].includes(bits)) return undefined;
    const { names, table } = space;
    const perPixel = table ? 1 : names.length;
    // no more than is needed is unpacked, whatever the stream holds
    const packed = decodePDFRawStream(stream).getBytes(Math.ceil((width * perPixel * bits) / 8) * height);
    const samples = unpack(packed, width * perPixel, height, bits);
    const decode = entry('Decode', 'D');
    const turned = names.map((_, k) => {
      const first = decode instanceof PDFArray && decode.size() > 2 * k ? context.lookup(decode.get(2 * k)) : undefined;
      return !table && first instanceof PDFNumber && first.asNumber() > 0.5;
    });
    const most = bits === 16 ? 255 : 2 ** bits - 1;
    const n = names.length;
    const at = (i: number): number => {
      if (table) return table[(samples[Math.floor(i / n)] as number) * n + (i % n)] ?? 0;
      const value = (255 * (samples[i] as number)) / most;
      return turned[i % n] ? 255 - value : value;
    };
    const plan = inkPlan({ samples: n, inkSet: 2, names: names.join('\0'), extras: [] });
    const spots = plan.spots.filter(({ sample }) => isSpot(names[sample] ?? ''));
    const { data, plates } = separatedPixels(at, n, width * height, { ...plan, spots });
    return {
      width,
      height,
      base: plan.process.every((sample) => sample < 0) ? undefined : data,
      plates,
      isShort: plan.leftOut.some(isSpot),
    };
  } catch {
    // a coding that is not read here: the page's parser shows it in plain colours
    return undefined;
  }
}

/** Names of inks of a picture, whether or not its samples can be read. */
export const namedInks = (space: PDFObject | undefined, context: PDFContext): readonly string[] =>
  spaceOf(space, context)?.names.filter(isSpot) ?? [];
