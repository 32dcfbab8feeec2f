declare module 'lcms-wasm' {
  export interface LCMS {
    cmsOpenProfileFromMem(bytes: Uint8Array, length: number): number;
    cmsCreate_sRGBProfile(): number;
    cmsCreateTransform(from: number, fromFormat: number, to: number, toFormat: number, intent: number, flags: number): number;
    cmsDoTransform(transform: number, input: Uint8Array, count: number): Uint8Array;
  }
  export function instantiate(): Promise<LCMS>;
  export const TYPE_RGB_8: number;
  export const TYPE_CMYK_8: number;
  export const INTENT_RELATIVE_COLORIMETRIC: number;
  export const cmsFLAGS_BLACKPOINTCOMPENSATION: number;
}
