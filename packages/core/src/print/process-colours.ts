/**
 * From sRGB to process inks through an ICC profile of a printing condition (ICC.1:2010), by Little CMS (`lcms-wasm`).
 * Values of inks: 0 none, 255 full.
 */
// @ts-expect-error -- the package has no types; what is used of it is said below
import * as untyped from 'lcms-wasm';
import { InputError } from '../errors/index.ts';
import { USUAL_RENDERING, type Intent, type Rendering } from './rendering.ts';

interface Lcms {
  cmsOpenProfileFromMem(bytes: Uint8Array, length: number): number;
  cmsCreate_sRGBProfile(): number;
  cmsCreateTransform(from: number, fromFormat: number, to: number, toFormat: number, intent: number, flags: number): number;
  cmsDoTransform(transform: number, input: Uint8Array, count: number): Uint8Array;
  cmsGetProfileInfoASCII(profile: number, info: number, language: string, country: string): string;
}
const lib = untyped as unknown as {
  readonly instantiate: () => Promise<Lcms>;
  readonly TYPE_RGB_8: number;
  readonly TYPE_CMYK_8: number;
  readonly INTENT_PERCEPTUAL: number;
  readonly INTENT_RELATIVE_COLORIMETRIC: number;
  readonly INTENT_SATURATION: number;
  readonly INTENT_ABSOLUTE_COLORIMETRIC: number;
  readonly cmsFLAGS_BLACKPOINTCOMPENSATION: number;
};

const INTENT_NUMBERS: Record<Intent, number> = {
  perceptual: lib.INTENT_PERCEPTUAL,
  relative: lib.INTENT_RELATIVE_COLORIMETRIC,
  saturation: lib.INTENT_SATURATION,
  absolute: lib.INTENT_ABSOLUTE_COLORIMETRIC,
};

/** Colours as process inks, and back, by a profile. */
export interface ProcessColours {
  /** The profile itself, to be kept with the file. */
  readonly profile: Uint8Array;
  /** What it calls itself. */
  readonly name: string;
  /** @param rgb three bytes a pixel. @returns four bytes a pixel */
  toInks(rgb: Uint8Array): Uint8Array;
  /** How inks look when they are printed. @param inks four bytes a pixel. @returns three bytes a pixel, sRGB, the paper white */
  toScreen(inks: Uint8Array): Uint8Array;
}

/** Loaded once, when it is first asked for. */
const engine: { loading?: Promise<Lcms> } = {};

const CMYK_SIGNATURE = 0x43_4d_59_4b;
const PRINTER_CLASS = 0x70_72_74_72;
const MOST_BYTES = 10 * 1024 * 1024;

/** What a profile says of itself in its header (ICC.1:2010, 7.2): colour space and class. */
function checkHeader(profile: Uint8Array): void {
  const view = new DataView(profile.buffer, profile.byteOffset, profile.byteLength);
  if (profile.length < 132 || profile.length > MOST_BYTES || view.getUint32(36) !== 0x61_63_73_70)
    throw new InputError('profile', 'This is no colour profile.');
  if (view.getUint32(12) !== PRINTER_CLASS)
    throw new InputError('profile', 'This colour profile is of a screen, a camera or something else, not of a printer.');
  if (view.getUint32(16) !== CMYK_SIGNATURE)
    throw new InputError('profile', 'This colour profile is not of a printer with four process inks.');
}

/** Opened profiles and transforms are kept: the engine has them for as long as it runs. */
const opened = new Map<string, ProcessColours>();
const MOST_OPENED = 24;

/** FNV-1a over all bytes and what is asked of them. */
function keyOf(profile: Uint8Array, { intent, blackPoint }: Rendering): string {
  let hash = 0x811c9dc5;
  for (const byte of profile) hash = Math.imul(hash ^ byte, 0x01000193) >>> 0;
  return `${profile.length} ${hash} ${intent} ${blackPoint}`;
}

/** @throws InputError `input.profile` for what is no profile of four process inks */
export async function openProfile(profile: Uint8Array, rendering: Rendering = USUAL_RENDERING): Promise<ProcessColours> {
  checkHeader(profile);
  const key = keyOf(profile, rendering);
  const known = opened.get(key);
  if (known) return known;
  engine.loading ??= lib.instantiate();
  const lcms = await engine.loading;
  const target = lcms.cmsOpenProfileFromMem(profile, profile.length);
  const screen = lcms.cmsCreate_sRGBProfile();
  const flags = rendering.blackPoint ? lib.cmsFLAGS_BLACKPOINTCOMPENSATION : 0;
  const to = target ? lcms.cmsCreateTransform(screen, lib.TYPE_RGB_8, target, lib.TYPE_CMYK_8, INTENT_NUMBERS[rendering.intent], flags) : 0;
  const back = target ? lcms.cmsCreateTransform(target, lib.TYPE_CMYK_8, screen, lib.TYPE_RGB_8, lib.INTENT_RELATIVE_COLORIMETRIC, 0) : 0;
  if (!to || !back) throw new InputError('profile', 'This colour profile cannot be used.');
  const through =
    (transform: number, channels: number) =>
    (bytes: Uint8Array): Uint8Array => {
      const count = Math.floor(bytes.length / channels);
      return count === 0 ? new Uint8Array(0) : Uint8Array.from(lcms.cmsDoTransform(transform, bytes, count));
    };
  const name = lcms
    .cmsGetProfileInfoASCII(target, 0, 'en', 'US')
    .replace(/\p{Cc}/gu, '')
    .trim()
    .slice(0, 120);
  const colours: ProcessColours = { profile, name: name || 'Profile without a name', toInks: through(to, 3), toScreen: through(back, 4) };
  if (opened.size >= MOST_OPENED) opened.clear();
  opened.set(key, colours);
  return colours;
}
