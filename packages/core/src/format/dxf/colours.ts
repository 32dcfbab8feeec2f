/** The 255 indexed colours of DXF: nine fixed ones, 24 hues in five strengths full and half, six greys. */

const FIXED = ['#000000', '#ff0000', '#ffff00', '#00ff00', '#00ffff', '#0000ff', '#ff00ff', '#000000', '#414141', '#808080'];
const GREYS = [51, 80, 105, 130, 190, 255];
const STRENGTHS = [1, 0.65, 0.5, 0.3, 0.15];

const two = (n: number): string => Math.round(n).toString(16).padStart(2, '0');

/** `#rrggbb` of an index; black for 7 (which is black on paper) and what is no index. */
export function indexedColour(index: number): string {
  if (!(index >= 1 && index <= 255)) return '#000000';
  if (index < 10) return FIXED[index] as string;
  if (index >= 250) return `#${two(GREYS[index - 250] as number).repeat(3)}`;
  const hue = Math.floor((index - 10) / 10) / 4;
  const strength = STRENGTHS[Math.floor((index % 10) / 2)] as number;
  const least = index % 2 === 1 ? 0.5 : 0;
  const channel = (shift: number): string => {
    const h = (hue + shift) % 6;
    const share = Math.min(1, Math.max(0, Math.abs(h - 3) - 1));
    return two(Math.floor(255 * strength) * (least + (1 - least) * share));
  };
  return `#${channel(0)}${channel(4)}${channel(2)}`;
}

/** `#rrggbb` of a 24-bit colour. */
export const trueColour = (n: number): string => `#${(Math.trunc(n) & 0xffffff).toString(16).padStart(6, '0')}`;
