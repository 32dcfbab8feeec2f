/**
 * Messages of the Internet Printing Protocol (RFC 8010) as bytes: what the simulated desk printer reads and writes.
 * Written apart from what the server's driver uses, so that each proves the other.
 */

export type IppValue =
  number | string | boolean | { readonly x: number; readonly y: number; readonly dpi: true } | readonly [number, number] | IppCollection;
export interface IppCollection {
  readonly collection: readonly IppAttribute[];
}
export interface IppAttribute {
  readonly tag: number;
  readonly name: string;
  readonly values: readonly IppValue[];
}
export interface IppGroup {
  readonly tag: number;
  readonly attributes: readonly IppAttribute[];
}
export interface IppMessage {
  readonly major: number;
  readonly minor: number;
  /** Operation of a request, status of an answer. */
  readonly code: number;
  readonly id: number;
  readonly groups: readonly IppGroup[];
  /** What follows the attributes. */
  readonly data: Uint8Array;
}

export const TAG = {
  operation: 0x01,
  job: 0x02,
  end: 0x03,
  printer: 0x04,
  unsupported: 0x05,
  noValue: 0x13,
  integer: 0x21,
  boolean: 0x22,
  enum: 0x23,
  resolution: 0x32,
  range: 0x33,
  begin: 0x34,
  endCollection: 0x37,
  text: 0x41,
  name: 0x42,
  keyword: 0x44,
  uri: 0x45,
  scheme: 0x46,
  charset: 0x47,
  language: 0x48,
  mime: 0x49,
  member: 0x4a,
} as const;

const MOST_DEPTH = 6;

/** A message read attribute by attribute (RFC 8010, 3.1). */
class IppReader {
  at = 8;
  private readonly view: DataView;

  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  head(): Pick<IppMessage, 'major' | 'minor' | 'code' | 'id'> {
    const { view } = this;
    return { major: view.getUint8(0), minor: view.getUint8(1), code: view.getUint16(2), id: view.getInt32(4) };
  }

  groups(): IppGroup[] {
    const groups: { tag: number; attributes: { tag: number; name: string; values: IppValue[] }[] }[] = [];
    for (let next = this.view.getUint8(this.at); next !== TAG.end; next = this.view.getUint8(this.at)) {
      if (next < 0x10) {
        groups.push({ tag: next, attributes: [] });
        this.at++;
        continue;
      }
      const group = groups.at(-1);
      if (!group) throw new Error('an attribute outside of a group');
      const { tag, name, from, length } = this.field();
      const value = this.value(tag, from, length, 0);
      if (name !== '') group.attributes.push({ tag, name, values: [value] });
      else group.attributes.at(-1)?.values.push(value);
    }
    this.at++;
    return groups;
  }

  private take(length: number): number {
    const from = this.at;
    if (from + length > this.bytes.length) throw new RangeError('ends too soon');
    this.at += length;
    return from;
  }

  private text(from: number, length: number): string {
    return new TextDecoder().decode(this.bytes.subarray(from, from + length));
  }

  private size(): number {
    return this.view.getUint16(this.take(2));
  }

  private field(): { tag: number; name: string; from: number; length: number } {
    const tag = this.view.getUint8(this.take(1));
    const nameLength = this.size();
    const name = this.text(this.take(nameLength), nameLength);
    const length = this.size();
    return { tag, name, from: this.take(length), length };
  }

  private value(tag: number, from: number, length: number, depth: number): IppValue {
    const { view } = this;
    if (tag === TAG.begin) return { collection: this.members(depth + 1) };
    if (tag === TAG.integer || tag === TAG.enum) return view.getInt32(from);
    if (tag === TAG.boolean) return view.getUint8(from) !== 0;
    if (tag === TAG.range) return [view.getInt32(from), view.getInt32(from + 4)];
    return this.text(from, length);
  }

  private members(depth: number): IppAttribute[] {
    if (depth > MOST_DEPTH) throw new Error('nested too deeply');
    const out: { tag: number; name: string; values: IppValue[] }[] = [];
    for (;;) {
      const { tag, from, length } = this.field();
      if (tag === TAG.endCollection) return out;
      if (tag === TAG.member) {
        out.push({ tag: 0, name: this.text(from, length), values: [] });
        continue;
      }
      const last = out.at(-1);
      if (!last) throw new Error('a value without a name');
      last.tag = tag;
      last.values.push(this.value(tag, from, length, depth));
    }
  }
}

/** @throws RangeError for bytes that end too soon, Error for what is no message */
export function readIpp(bytes: Uint8Array): IppMessage {
  const reader = new IppReader(bytes);
  const groups = reader.groups();
  return { ...reader.head(), groups, data: bytes.subarray(reader.at) };
}

function valueBytes(tag: number, value: IppValue): Buffer {
  if (typeof value === 'number') {
    const out = Buffer.alloc(4);
    out.writeInt32BE(value);
    return out;
  }
  if (typeof value === 'boolean') return Buffer.from([value ? 1 : 0]);
  if (typeof value === 'string') return Buffer.from(value, 'utf8');
  if (tag === TAG.range) {
    const [low, high] = value as readonly [number, number];
    const out = Buffer.alloc(8);
    out.writeInt32BE(low);
    out.writeInt32BE(high, 4);
    return out;
  }
  const { x, y } = value as { x: number; y: number };
  const out = Buffer.alloc(9);
  out.writeInt32BE(x);
  out.writeInt32BE(y, 4);
  out.writeUInt8(3, 8);
  return out;
}

function fieldBytes(tag: number, name: string, value: Buffer): Buffer {
  const head = Buffer.alloc(3);
  head.writeUInt8(tag);
  head.writeUInt16BE(Buffer.byteLength(name), 1);
  const length = Buffer.alloc(2);
  length.writeUInt16BE(value.length);
  return Buffer.concat([head, Buffer.from(name), length, value]);
}

function attributeBytes({ tag, name, values }: IppAttribute): Buffer {
  return Buffer.concat(
    values.map((value, i) => {
      const own = i === 0 ? name : '';
      if (typeof value !== 'object' || !('collection' in value)) return fieldBytes(tag, own, valueBytes(tag, value));
      const inner = value.collection.flatMap((member) => [
        fieldBytes(TAG.member, '', Buffer.from(member.name)),
        attributeBytes({ ...member, name: '' }),
      ]);
      return Buffer.concat([fieldBytes(TAG.begin, own, Buffer.alloc(0)), ...inner, fieldBytes(TAG.endCollection, '', Buffer.alloc(0))]);
    }),
  );
}

export function writeIpp({ major, minor, code, id, groups }: Omit<IppMessage, 'data'>): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt8(major);
  head.writeUInt8(minor, 1);
  head.writeUInt16BE(code, 2);
  head.writeInt32BE(id, 4);
  const body = groups.flatMap(({ tag, attributes }) => [Buffer.from([tag]), ...attributes.map(attributeBytes)]);
  return Buffer.concat([head, ...body, Buffer.from([TAG.end])]);
}
