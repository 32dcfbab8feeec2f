/** What a click or stroke on the original means at the moment, and which colour is looked at. */
import { create } from 'zustand';

/** Nothing (the picture is moved), or what the next clicks or strokes do. */
export type Picking = 'none' | 'name' | 'lift' | 'keep' | 'take' | 'clear' | 'corners' | 'crop';

interface Pickings {
  readonly picking: Picking;
  /** Width of the brush, share of the picture's longer side. */
  readonly brush: number;
  /** Corners clicked so far. */
  readonly corners: readonly { readonly x: number; readonly y: number }[];
  /** The colour whose reach is set, and how far it would reach. */
  readonly looked: { readonly hex: string; readonly reach: number } | undefined;
}

export const usePicking = create<Pickings>(() => ({ picking: 'none', brush: 0.03, corners: [], looked: undefined }));

export const pick = (picking: Picking): void =>
  usePicking.setState((now) => ({ picking: now.picking === picking ? 'none' : picking, corners: [] }));

/** The colour of the original at a place, shares of it. */
export function colourAt(image: HTMLImageElement, x: number, y: number): string {
  const canvas = document.createElement('canvas');
  [canvas.width, canvas.height] = [1, 1];
  const context = canvas.getContext('2d');
  if (!context) return '#000000';
  context.drawImage(image, -Math.floor(x * image.naturalWidth), -Math.floor(y * image.naturalHeight));
  const [r = 0, g = 0, b = 0] = context.getImageData(0, 0, 1, 1).data;
  return `#${[r, g, b].map((v) => v.toString(16).padStart(2, '0')).join('')}`;
}
