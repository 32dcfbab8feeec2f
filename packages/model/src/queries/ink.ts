/** Which ink shows on a film: dark on light films, light on dark ones (luma of ITU-R BT.601). */

/** Is the colour `#rrggbb` light? */
export function isLight(hex: string): boolean {
  const channel = (at: number): number => Number.parseInt(hex.slice(at, at + 2), 16);
  return 0.299 * channel(1) + 0.587 * channel(3) + 0.114 * channel(5) > 140;
}

/** On light grounds. */
export const DARK_INK = '#16202e';
/** On dark ones. */
export const LIGHT_INK = '#fdfbf6';

/** The ink that is read on a colour. */
export const inkOn = (hex: string): string => (isLight(hex) ? DARK_INK : LIGHT_INK);
