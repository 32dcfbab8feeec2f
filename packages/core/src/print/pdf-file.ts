/**
 * The frame of a PDF (ISO 32000-2, 7.5), written as it comes: numbered objects, streams whose length is known only when
 * they end, the table of where each object lies. What is written is gone from memory.
 */
import { strToU8 } from 'fflate';

/** Takes the file's bytes in order; a promise holds the writer back. */
export type ByteSink = (bytes: Uint8Array) => void | Promise<void>;

/** A PDF file that is written object by object (ISO 32000-1, 7.5). */
export class PdfFile {
  private offset = 0;
  private readonly places: (number | undefined)[] = [undefined];
  private readonly sink: ByteSink;

  constructor(sink: ByteSink) {
    this.sink = sink;
  }

  private async put(bytes: Uint8Array): Promise<void> {
    this.offset += bytes.length;
    await this.sink(bytes);
  }

  /** Header; four bytes above 127 tell that the file is no text. */
  begin(): Promise<void> {
    return this.put(Uint8Array.from([...strToU8('%PDF-1.6\n%'), 0xe2, 0xe3, 0xcf, 0xd3, 0x0a]));
  }

  /** A number for an object that is written later. */
  number(): number {
    this.places.push(undefined);
    return this.places.length - 1;
  }

  async object(body: string, number = this.number()): Promise<number> {
    this.places[number] = this.offset;
    await this.put(strToU8(`${number} 0 obj\n${body}\nendobj\n`));
    return number;
  }

  /** @param entries of the stream's dictionary, without its length and filter */
  async stream(entries: string, chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>, number = this.number()): Promise<number> {
    const lengthAt = this.number();
    this.places[number] = this.offset;
    await this.put(strToU8(`${number} 0 obj\n<< ${entries} /Filter /FlateDecode /Length ${lengthAt} 0 R >>\nstream\n`));
    const begin = this.offset;
    await this.deflate(chunks);
    const length = this.offset - begin;
    await this.put(strToU8('\nendstream\nendobj\n'));
    await this.object(String(length), lengthAt);
    return number;
  }

  private async deflate(chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): Promise<void> {
    const packer = new CompressionStream('deflate');
    const writer = packer.writable.getWriter();
    const reader = packer.readable.getReader();
    const feed = async (): Promise<void> => {
      // the next is made while the last is packed
      let packed: Promise<void> = Promise.resolve();
      for await (const chunk of chunks) {
        await packed;
        packed = writer.write(chunk as Uint8Array<ArrayBuffer>);
        // waited for above
        packed.catch(() => undefined);
      }
      await packed;
      await writer.close();
    };
    // a source that fails ends the reading too
    const feeding = feed().catch(async (error: unknown) => {
      await writer.abort(error).catch(() => undefined);
      throw error;
    });
    feeding.catch(() => undefined);
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      await this.put(value);
    }
    await feeding;
  }

  /** Table of objects and trailer. @param id hexadecimal, of 32 digits */
  async end(catalogue: number, info: number, id: string): Promise<void> {
    const start = this.offset;
    const rows = this.places.slice(1).map((place) => `${String(place ?? 0).padStart(10, '0')} 00000 ${place === undefined ? 'f' : 'n'} \n`);
    const size = this.places.length;
    await this.put(
      strToU8(
        `xref\n0 ${size}\n0000000000 65535 f \n${rows.join('')}trailer\n<< /Size ${size} /Root ${catalogue} 0 R /Info ${info} 0 R /ID [<${id}> <${id}>] >>\nstartxref\n${start}\n%%EOF\n`,
      ),
    );
  }
}
