/**
 * Cut lines and white of a print file: Separations with overprint on optional content with the keys of ISO 19593-1, so that the
 * process plates are the same with them and without.
 */
import { strToU8 } from 'fflate';
import type { Control } from '../types/index.ts';
import { LINE_INKS } from './line-inks.ts';
import type { PdfFile } from './pdf-file.ts';
import { nameOf, number, pathOf, separation, textOf } from './pdf-content.ts';
import type { PictureSource, PrintPage } from './page.ts';
import { WHITE_INK, whiteOutline, whiteShares } from './white.ts';

const LINE_WIDTH_MM = 0.1;

/** Cut lines, each kind on its layer. */
export async function writeLines(
  file: PdfFile,
  page: PrintPage,
): Promise<{ content: string; properties: string; spaces: string; layers: number[] }> {
  const kinds = [...new Set(page.lines.map(({ kind }) => kind))];
  const layers: number[] = [];
  const parts = { content: '', properties: '', spaces: '' };
  for (const kind of kinds) {
    const ink = LINE_INKS[kind];
    const layer = await file.object(
      `<< /Type /OCG /Name ${textOf(ink.name)} /GTS_Metadata << /GTS_ProcStepsGroup ${nameOf(ink.group)} /GTS_ProcStepsType ${nameOf(ink.type)} >> >>`,
    );
    layers.push(layer);
    parts.properties += `/L${kind} ${layer} 0 R `;
    parts.spaces += `${nameOf(ink.name)} ${separation(ink.name, ink.look, '/DeviceCMYK')} `;
    const path = page.lines.filter((line) => line.kind === kind).map(({ outline }) => pathOf(outline));
    parts.content += `/OC /L${kind} BDC\nq /Over gs ${nameOf(ink.name)} CS 1 SCN ${LINE_WIDTH_MM} w\n${path.map((d) => `${d}\nS`).join('\n')}\nQ\nEMC\n`;
  }
  return { ...parts, layers };
}

/** White of a page: its content, and what that names. */
export interface WrittenWhite {
  readonly content: string;
  readonly states: string;
  readonly spaces: string;
  readonly properties: string;
  readonly layers: readonly number[];
}
export const NO_WHITE: WrittenWhite = { content: '', states: '', spaces: '', properties: '', layers: [] };

/** Soft white is as fine as this, unless the page is so large that it would not be held. */
const WHITE_DPI = 200;
const MOST_WHITE_PX = 16e6;

/**
 * White after all art, printed over and besides it: a filled path, or all of the page under a mask. Both renderers that were
 * asked keep the process plates as they are in these two forms alone.
 */
export async function writeWhite(
  file: PdfFile,
  page: PrintPage,
  white: NonNullable<PrintPage['white']>,
  pictures: PictureSource,
  control: Control,
): Promise<WrittenWhite> {
  const layer = await file.object(
    `<< /Type /OCG /Name ${textOf(WHITE_INK)} /GTS_Metadata << /GTS_ProcStepsGroup /White /GTS_ProcStepsType /White >> >>`,
  );
  const space = separation(WHITE_INK, [0, 0, 0, 0], '/DeviceCMYK');
  const shared = { spaces: `${nameOf(WHITE_INK)} ${space} `, properties: `/Lwhite ${layer} 0 R `, layers: [layer] };
  const begin = `/OC /Lwhite BDC\nq /Over gs ${nameOf(WHITE_INK)} cs`;
  const hard = whiteOutline(page, white, (name) => pictures(name).hasAlpha);
  if (hard) return { ...shared, states: '', content: `${begin} ${number(white.strengthPct / 100)} scn\n${pathOf(hard)}\nf\nQ\nEMC\n` };
  const dpi = Math.min(WHITE_DPI, Math.sqrt(MOST_WHITE_PX / (page.widthMm * page.heightMm)) * 25.4);
  const [width, height] = [page.widthMm, page.heightMm].map((mm) => Math.max(1, Math.round((mm * dpi) / 25.4))) as [number, number];
  const shares = await whiteShares(page, white, { width, height, pictures }, control);
  const image = await file.stream(
    `/Type /XObject /Subtype /Image /Width ${width} /Height ${height} /BitsPerComponent 8 /ColorSpace /DeviceGray`,
    [Uint8Array.from(shares, (v) => Math.round(255 * v))],
  );
  const [w, h] = [number(page.widthMm), number(page.heightMm)];
  const mask = await file.stream(
    `/Type /XObject /Subtype /Form /BBox [0 0 ${w} ${h}] /Group << /S /Transparency /CS /DeviceGray >> /Resources << /XObject << /M ${image} 0 R >> >>`,
    [strToU8(`q ${w} 0 0 ${h} 0 0 cm /M Do Q`)],
  );
  const states = `/Soft << /SMask << /Type /Mask /S /Luminosity /G ${mask} 0 R >> >>`;
  return { ...shared, states, content: `${begin} 1 scn /Soft gs\n0 0 ${w} ${h} re\nf\nQ\nEMC\n` };
}
