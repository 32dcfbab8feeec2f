/**
 * Faxes in TIFF: one-bit pictures in the codings of ITU-T T.4 and T.6, which the parser of the other kinds does not
 * know. They are decoded by utif2 from a file with a head of our own, so that it meets no claim that was not looked at.
 */
import utif from 'utif2';
import { InputError } from '../errors/index.ts';

/** Codings of one-bit pictures. */
export const FAX_CODINGS = new Set([2, 3, 4]);

/** How rows of black and white are coded (ITU-T T.4, T.6). */
export interface Fax {
  readonly width: number;
  readonly height: number;
  readonly compression: number;
  readonly photometric: number;
  readonly rowsPerStrip: number;
  /** Bits of a byte from the lowest on when 2. */
  readonly fillOrder: number;
  readonly options: number;
  readonly strips: readonly Uint8Array[];
}

/**
 * The strips of a fax, each within the file. @throws InputError when they are not what the head claims
 * @param claimed how many the picture's size asks for
 */
export function faxStrips(bytes: Uint8Array, offsets: ArrayLike<number>, counts: ArrayLike<number>, claimed: number): Uint8Array[] {
  const wrong = (): InputError =>
    new InputError('picture', 'The rows of this fax lie where the file does not reach. Save it as PNG or JPEG.');
  if (offsets.length !== claimed || counts.length !== claimed) throw wrong();
  return Array.from({ length: claimed }, (_, i) => {
    const [from, count] = [Number(offsets[i]), Number(counts[i])];
    if (!(from >= 8 && count > 0 && from + count <= bytes.length)) throw wrong();
    return bytes.subarray(from, from + count);
  });
}

/** A TIFF of one fax with a head of our own: whoever decodes it meets no claim that was not looked at. */
function faxFile(fax: Fax): ArrayBuffer {
  const { strips } = fax;
  const data = strips.reduce((sum, strip) => sum + strip.length, 0);
  const lists = 8 + data + (data % 2);
  const head = lists + 8 * strips.length;
  const buffer = new ArrayBuffer(head + 2 + 12 * 10 + 4);
  const view = new DataView(buffer);
  new Uint8Array(buffer).set([0x49, 0x49, 42, 0]);
  view.setUint32(4, head, true);
  let at = 8;
  strips.forEach((strip, i) => {
    new Uint8Array(buffer).set(strip, at);
    view.setUint32(lists + 4 * i, at, true);
    view.setUint32(lists + 4 * (strips.length + i), strip.length, true);
    at += strip.length;
  });
  // tag, type (4: 32 bits), count, value; one value stands in the head itself
  const list = (first: number): number => (strips.length === 1 ? view.getUint32(lists + 4 * first, true) : lists + 4 * first);
  const entries: [number, number, number][] = [
    [256, 1, fax.width],
    [257, 1, fax.height],
    [258, 1, 1],
    [259, 1, fax.compression],
    [262, 1, fax.photometric],
    [266, 1, fax.fillOrder],
    [273, strips.length, list(0)],
    [278, 1, fax.rowsPerStrip],
    [279, strips.length, list(strips.length)],
    [292, 1, fax.options],
  ];
  view.setUint16(head, entries.length, true);
  entries.forEach(([tag, count, value], i) => {
    const entry = head + 2 + 12 * i;
    view.setUint16(entry, tag, true);
    view.setUint16(entry + 2, 4, true);
    view.setUint32(entry + 4, count, true);
    view.setUint32(entry + 8, value, true);
  });
  return buffer;
}

/** Its pixels, RGBA, top row first. */
export function faxPixels(fax: Fax): Uint8ClampedArray {
  const buffer = faxFile(fax);
  const [first] = utif.decode(buffer);
  if (!first) throw new InputError('picture', 'The file holds no picture.');
  utif.decodeImage(buffer, first);
  return new Uint8ClampedArray(utif.toRGBA8(first));
}
