/** Pictures of a print file, rows at a time so that a large one never lies in memory, with their alpha as soft masks (ISO 32000-2, 8.9, 11.6.5). */
import { strToU8 } from 'fflate';
import type { Control } from '../types/index.ts';
import { CancelledError, InputError } from '../errors/index.ts';
import type { PdfFile } from './pdf-file.ts';
import type { PrintPicture } from './page.ts';
import type { ProcessColours } from './process-colours.ts';

/** Pixels that are converted at once. */
const BATCH_PX = 1 << 20;

/** Rows of a picture as samples in the file's colours, or of its alpha. @param wanted values that all pixels have, where they do */
async function* samplesOf(
  picture: PrintPicture,
  inks: ProcessColours | undefined,
  wanted: 'colour' | 'alpha' | readonly number[],
  control: Control,
): AsyncGenerator<Uint8Array> {
  const batch = Math.max(1, Math.floor(BATCH_PX / picture.widthPx));
  for (let y = 0; y < picture.heightPx; y += batch) {
    if (control.signal?.aborted) throw new CancelledError();
    const count = Math.min(batch, picture.heightPx - y);
    if (typeof wanted === 'object') {
      const flat = Uint8Array.from(wanted, (v) => Math.round(255 * v));
      const out = new Uint8Array(flat.length * picture.widthPx * count);
      for (let i = 0; i < out.length; i += flat.length) out.set(flat, i);
      yield out;
      continue;
    }
    const rgba = await picture.rows(y, count);
    const pixels = picture.widthPx * count;
    if (rgba.length < 4 * pixels) throw new InputError('picture', 'A picture is shorter than it says.');
    const out = new Uint8Array(wanted === 'alpha' ? pixels : 3 * pixels);
    for (let i = 0; i < pixels; i++) {
      if (wanted === 'alpha') out[i] = rgba[4 * i + 3] as number;
      else for (let c = 0; c < 3; c++) out[3 * i + c] = rgba[4 * i + c] as number;
    }
    yield wanted === 'alpha' || !inks ? out : inks.toInks(out);
    control.onProgress?.(y + count, picture.heightPx, 'picture');
  }
}

const sizeOf = ({ widthPx, heightPx }: PrintPicture): string =>
  `/Type /XObject /Subtype /Image /Width ${widthPx} /Height ${heightPx} /BitsPerComponent 8`;

/** The alpha of a picture as a mask over the unit square. */
export async function writeMask(file: PdfFile, picture: PrintPicture, control: Control): Promise<number> {
  const image = await file.stream(`${sizeOf(picture)} /ColorSpace /DeviceGray`, samplesOf(picture, undefined, 'alpha', control));
  return file.stream(
    `/Type /XObject /Subtype /Form /BBox [0 0 1 1] /Group << /S /Transparency /CS /DeviceGray >> /Resources << /XObject << /M ${image} 0 R >> >>`,
    [strToU8('q 1 0 0 1 0 0 cm /M Do Q')],
  );
}

/** @param flat values that all pixels have: only the alpha is the picture's */
export async function writePicture(
  file: PdfFile,
  picture: PrintPicture,
  inks: ProcessColours | undefined,
  control: Control,
  flat?: readonly number[],
): Promise<number> {
  const size = sizeOf(picture);
  const mask = picture.hasAlpha
    ? await file.stream(`${size} /ColorSpace /DeviceGray`, samplesOf(picture, inks, 'alpha', control))
    : undefined;
  const space = inks ? '/DeviceCMYK' : '/DeviceRGB';
  return file.stream(
    `${size} /ColorSpace ${space}${mask === undefined ? '' : ` /SMask ${mask} 0 R`}`,
    samplesOf(picture, inks, flat ?? 'colour', control),
  );
}
