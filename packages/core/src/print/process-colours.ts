/**
 * From sRGB to process inks through an ICC profile of a printing condition (ICC.1:2010), by Little CMS (`lcms-wasm`).
 * Relative colorimetric with black point compensation. Values of inks: 0 none, 255 full.
 */
// @ts-expect-error -- the package has no types; what is used of it is said below
import * as untyped from 'lcms-wasm';
import { InputError } from '../errors/index.ts';

interface Lcms {
  cmsOpenProfileFromMem(bytes: Uint8Array, length: number): number;
  cmsCreate_sRGBProfile(): number;
  cmsCreateTransform(from: number, fromFormat: number, to: number, toFormat: number, intent: number, flags: number): number;
  cmsDoTransform(transform: number, input: Uint8Array, count: number): Uint8Array;
}
const { instantiate, TYPE_RGB_8, TYPE_CMYK_8, INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_BLACKPOINTCOMPENSATION } = untyped as unknown as {
  readonly instantiate: () => Promise<Lcms>;
  readonly TYPE_RGB_8: number;
  readonly TYPE_CMYK_8: number;
  readonly INTENT_RELATIVE_COLORIMETRIC: number;
  readonly cmsFLAGS_BLACKPOINTCOMPENSATION: number;
};

export interface ProcessColours {
  /** The profile itself, to be kept with the file. */
  readonly profile: Uint8Array;
  /** @param rgb three bytes a pixel. @returns four bytes a pixel */
  toInks(rgb: Uint8Array): Uint8Array;
}

/** Loaded once, when it is first asked for. */
const engine: { loading?: Promise<Lcms> } = {};

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
  engine.loading ??= instantiate();
  const lcms = await engine.loading;
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
