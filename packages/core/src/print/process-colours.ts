/**
 * From sRGB to process inks through an ICC profile of a printing condition (ICC.1:2010), by Little CMS (`lcms-wasm`).
 * Relative colorimetric with black point compensation. Values of inks: 0 none, 255 full.
 */
/// <reference path="./lcms-wasm.d.ts" />
import { cmsFLAGS_BLACKPOINTCOMPENSATION, instantiate, INTENT_RELATIVE_COLORIMETRIC, TYPE_CMYK_8, TYPE_RGB_8, type LCMS } from 'lcms-wasm';
import { InputError } from '../errors/index.ts';

export interface ProcessColours {
  /** The profile itself, to be kept with the file. */
  readonly profile: Uint8Array;
  /** @param rgb three bytes a pixel. @returns four bytes a pixel */
  toInks(rgb: Uint8Array): Uint8Array;
}

let engine: Promise<LCMS> | undefined;

const CMYK_SIGNATURE = 0x43_4d_59_4b;
const MOST_BYTES = 10 * 1024 * 1024;

/** What a profile says of itself in its header (ICC.1:2010, 7.2): colour space and class. */
function checkHeader(profile: Uint8Array): void {
  const view = new DataView(profile.buffer, profile.byteOffset, profile.byteLength);
  if (profile.length < 132 || profile.length > MOST_BYTES || view.getUint32(36) !== 0x61_63_73_70)
    throw new InputError('profile', 'This is no colour profile.');
  if (view.getUint32(16) !== CMYK_SIGNATURE)
    throw new InputError('profile', 'This colour profile is not of a printer with four process inks.');
}

/** @throws InputError `input.profile` for what is no profile of four process inks */
export async function openProfile(profile: Uint8Array): Promise<ProcessColours> {
  checkHeader(profile);
  engine ??= instantiate();
  const lcms = await engine;
  const target = lcms.cmsOpenProfileFromMem(profile, profile.length);
  const screen = lcms.cmsCreate_sRGBProfile();
  const transform = target
    ? lcms.cmsCreateTransform(screen, TYPE_RGB_8, target, TYPE_CMYK_8, INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_BLACKPOINTCOMPENSATION)
    : 0;
  if (!transform) throw new InputError('profile', 'This colour profile cannot be used.');
  return {
    profile,
    toInks: (rgb) => {
      const count = Math.floor(rgb.length / 3);
      return count === 0 ? new Uint8Array(0) : Uint8Array.from(lcms.cmsDoTransform(transform, rgb, count));
    },
  };
}
