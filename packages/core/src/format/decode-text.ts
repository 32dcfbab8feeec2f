/** Bytes to text by the platform's decoder, which both Node and browsers have and the language's library does not name. */
interface Decoder {
  decode(bytes: Uint8Array, options?: { stream: boolean }): string;
}

const Platform = (globalThis as unknown as { TextDecoder: new (label: string, options?: { fatal: boolean }) => Decoder }).TextDecoder;

/**
 * Letters of one byte are read as a stream: at once, some platforms take windows-1252 for Latin-1 and lose the euro sign.
 * @param encoding a label of the WHATWG Encoding Standard
 */
export const decodeText = (bytes: Uint8Array, encoding = 'utf-8'): string =>
  new Platform(encoding).decode(bytes, { stream: encoding.startsWith('windows-') });

/** Undefined when the bytes are not UTF-8. */
export function decodeUtf8(bytes: Uint8Array): string | undefined {
  try {
    return new Platform('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return undefined;
  }
}
