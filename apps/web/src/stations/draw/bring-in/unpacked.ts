/** A drawing that came packed by gzip (`.svgz`), unpacked within limits. */
const MOST_BYTES = 64 * 1024 * 1024;

/** @returns the bytes as they are when they are not packed. @throws Error for more than 64 MB, or damage */
export async function unpacked(bytes: Uint8Array): Promise<Uint8Array> {
  if (bytes[0] !== 0x1f || bytes[1] !== 0x8b) return bytes;
  const chunks: Uint8Array[] = [];
  let size = 0;
  const reader = new Blob([bytes as Uint8Array<ArrayBuffer>]).stream().pipeThrough(new DecompressionStream('gzip')).getReader();
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      size += value.length;
      if (size > MOST_BYTES) break;
      chunks.push(value);
    }
  } catch {
    throw new Error('its packed content is damaged.');
  }
  await reader.cancel().catch(() => undefined);
  if (size > MOST_BYTES) throw new Error('it unpacks to more than 64 MB.');
  const out = new Uint8Array(size);
  let at = 0;
  for (const chunk of chunks) {
    out.set(chunk, at);
    at += chunk.length;
  }
  return out;
}
