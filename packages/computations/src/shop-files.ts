/** Files that the shop brings: fonts and colour profiles, and what they call themselves. */
import { InputError } from '@lorvek/core';
import { describeFont, type FontDescription } from '@lorvek/core/lettering';
import { openProfile } from '@lorvek/core/print';
import type { FileHost } from './host.ts';

export interface FileAsked {
  readonly bytes: Uint8Array;
}

export interface FontAnswer {
  readonly description: FontDescription;
  /** The font as TTF or OTF, unpacked when it came as WOFF2. */
  readonly sfnt: Uint8Array;
}

const WOFF2 = 0x774f4632;

/** @throws InputError `input.font` */
export async function describeFontFile({ bytes }: FileAsked, host: FileHost): Promise<FontAnswer> {
  const isWoff2 = bytes.length > 4 && new DataView(bytes.buffer, bytes.byteOffset, 4).getUint32(0) === WOFF2;
  const unpacked = (): Promise<Uint8Array> =>
    host.unpackWoff2(bytes).catch(() => {
      throw new InputError('font', 'This WOFF2 font is damaged and cannot be unpacked.');
    });
  const sfnt = isWoff2 ? await unpacked() : bytes;
  return { description: describeFont(sfnt), sfnt };
}

/** What a colour profile calls itself. @throws InputError `input.profile` */
export const describeProfile = async ({ bytes }: FileAsked): Promise<{ readonly name: string }> => ({
  name: (await openProfile(bytes)).name,
});
