/** What is used of `ipp`: messages of the Internet Printing Protocol (RFC 8010) to bytes and back. */
declare module 'ipp' {
  type Value = string | number | boolean | readonly (string | number)[];
  interface Message {
    readonly version?: string;
    readonly operation?: string;
    readonly statusCode?: string;
    readonly id?: number;
    readonly 'operation-attributes-tag': Readonly<Record<string, Value>>;
    readonly 'job-attributes-tag'?: Readonly<Record<string, Value>>;
  }
  const ipp: {
    serialize(message: Message): Buffer;
    /** @throws for bytes that are no message */
    parse: ((bytes: Buffer) => unknown) & {
      handleUnknownTag: (tag: number, name: string, length: number, read: (length: number) => string) => string | undefined;
    };
  };
  export default ipp;
}
