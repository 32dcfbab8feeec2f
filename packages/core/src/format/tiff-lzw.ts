/**
 * LZW as TIFF packs it (TIFF 6.0, section 13: codes of 9 to 12 bits, highest bit first, code width grown one code
 * early). Every string is found by its place in what was unpacked already, so nothing can run in a circle, and no more
 * than the block holds is unpacked. Damaged codes end the block; the rest of it stays empty.
 */

const CLEAR = 256;
const END = 257;
const FIRST = 258;
const MOST_CODES = 4096;

/** @param most bytes that the block holds @returns that many bytes @complexity the bytes packed and unpacked */
export function unpackLzw(packed: Uint8Array, most: number): Uint8Array {
  const out = new Uint8Array(most);
  /** Of each code the place and length of its string in `out`. */
  const start = new Int32Array(MOST_CODES);
  const length = new Int32Array(MOST_CODES);
  let size = 0;
  let codes = FIRST;
  let bits = 9;
  let position = 0;
  /** Place of the string before; -1 after a clearing. */
  let before = -1;
  let beforeLength = 0;
  const put = (from: number, count: number): void => {
    for (let k = 0; k < count && size < most; k++) out[size++] = out[from + k] as number;
  };
  while (size < most && position + bits <= 8 * packed.length) {
    let code = 0;
    for (let k = 0; k < bits; k++, position++) code = (code << 1) | (((packed[position >> 3] as number) >> (7 - (position & 7))) & 1);
    if (code === END) break;
    if (code === CLEAR) {
      codes = FIRST;
      bits = 9;
      before = -1;
      continue;
    }
    const at = size;
    if (code < CLEAR) out[size++] = code;
    else if (code < codes) put(start[code] as number, length[code] as number);
    else if (code === codes && before >= 0) put(before, beforeLength + 1);
    else break;
    if (before >= 0 && codes < MOST_CODES) {
      // the string before and the first byte of this one lie behind one another in what was unpacked
      start[codes] = before;
      length[codes] = beforeLength + 1;
      codes++;
    }
    before = at;
    beforeLength = size - at;
    bits = codes >= 2047 ? 12 : codes >= 1023 ? 11 : codes >= 511 ? 10 : 9;
  }
  return out;
}
