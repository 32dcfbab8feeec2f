/** Bytes within an answer that its host hands over instead of copying them: its own copy is gone after that. */

const isOwn = (value: unknown): value is Uint8Array<ArrayBuffer> =>
  value instanceof Uint8Array && value.buffer instanceof ArrayBuffer && value.byteLength === value.buffer.byteLength;

/** Files that were made for the answer alone; nothing that a computation keeps for the next question is among them. */
const FILES: Readonly<Record<string, (output: never) => readonly unknown[]>> = {
  'write-out': (bytes: Uint8Array) => [bytes],
  'lift-ground': ({ bytes }: { bytes: Uint8Array }) => [bytes],
  tiff: ({ png, plates }: { png: Uint8Array; plates: readonly { png: Uint8Array }[] }) => [png, ...plates.map((plate) => plate.png)],
};

/** @returns the buffers, each once; none for operations that answer with plain values */
export function handedOver(op: string, output: unknown): ArrayBuffer[] {
  const list = Object.hasOwn(FILES, op) ? (FILES[op] as (output: unknown) => readonly unknown[])(output) : [];
  return [...new Set(list.filter(isOwn).map(({ buffer }) => buffer))];
}
