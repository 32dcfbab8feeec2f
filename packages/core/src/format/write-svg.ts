/**
 * SVG 1.1 at true size: width and height in mm, one user unit = 1 mm, y turned down by writing each
 * coordinate as height - y, so that readers that ignore transforms still see it upright. Fills with a gradient have it
 * in the same units; those of strokes are written flat.
 */
import { strToU8 } from 'fflate';
import { mapOutline } from '../geometry/transform.ts';
import { formatPath } from '../geometry/path.ts';
import type { Matrix } from '../types/index.ts';
import { compose } from '../geometry/transform.ts';
import { picturesUnder, type Artwork, type ArtworkItem, type ArtworkPicture } from './artwork.ts';
import type { Gradient } from '../colour/gradient.ts';

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
/** Characters that XML 1.0 does not allow at all. */
const isForbidden = (char: string): boolean => (char < ' ' && !'\t\n\r'.includes(char)) || char === '\ufffe' || char === '\uffff';
const escapeText = (text: string): string => Array.from(text, (char) => (isForbidden(char) ? '' : (ESCAPES[char] ?? char))).join('');
const number = (n: number): string => String(Math.round(n * 1e4) / 1e4 + 0);

const fine = (n: number): string => String(Math.round(n * 1e6) / 1e6 + 0);
const turned = (heightMm: number): Matrix => [1, 0, 0, -1, 0, heightMm];

function gradientText({ kind, matrix, stops, spread, inner }: Gradient, id: string, heightMm: number): string {
  const map = compose(turned(heightMm), matrix).map(fine).join(' ');
  const circles = inner ? ` fx="${fine(inner.x)}" fy="${fine(inner.y)}"${inner.r > 0 ? ` fr="${fine(inner.r)}"` : ''}` : '';
  const course = kind === 'linear' ? 'x1="0" y1="0" x2="1" y2="0"' : `cx="0" cy="0" r="1"${circles}`;
  const steps = stops.map(({ offset, hex }) => `<stop offset="${fine(offset)}" stop-color="${hex}"/>`).join('');
  return `<${kind}Gradient id="${id}" gradientUnits="userSpaceOnUse" ${course} gradientTransform="matrix(${map})"${spread === 'pad' ? '' : ` spreadMethod="${spread}"`}>${steps}</${kind}Gradient>`;
}

function itemText(item: ArtworkItem, heightMm: number, fill: string): string {
  const flipped = mapOutline(turned(heightMm), item.outline);
  const stroke = item.stroke
    ? ` stroke="${item.stroke.hex}" stroke-width="${number(item.stroke.widthMm)}"${item.stroke.dashMm ? ` stroke-dasharray="${item.stroke.dashMm.map(number).join(' ')}"` : ''}`
    : '';
  const name = item.name ? `<title>${escapeText(item.name)}</title>` : '';
  const open = `<path d="${formatPath(flipped, 4)}" fill="${fill}"${stroke}`;
  return name ? `${open}>${name}</path>` : `${open}/>`;
}

/** The unit square of a picture has its origin below, that of SVG above. */
function pictureText({ bytesBase64, type, matrix: [a, b, c, d, e, f] }: ArtworkPicture, heightMm: number): string {
  const map = [a, -b, -c, d, e + c, heightMm - f - d].map((n) => String(Math.round(n * 1e6) / 1e6 + 0)).join(' ');
  return `<image width="1" height="1" preserveAspectRatio="none" transform="matrix(${map})" href="data:${type};base64,${bytesBase64}"/>`;
}

/**
 * Writes artwork, one group a layer, in the order of the items.
 * @param pictures each under the item that it says, within the file
 * @returns UTF-8 bytes
 */
export function writeSvg(artwork: Artwork, pictures: readonly ArtworkPicture[] = []): Uint8Array {
  const groups: { layer: string | undefined; under: ArtworkPicture[]; items: ArtworkItem[] }[] = [];
  artwork.items.forEach((item, i) => {
    const last = groups.at(-1);
    const under = picturesUnder(pictures, i, false);
    if (last && last.layer === item.layer && under.length === 0) last.items.push(item);
    else groups.push({ layer: item.layer, under, items: [item] });
  });
  const courses: string[] = [];
  const fillOf = ({ fill, gradient }: ArtworkItem): string => {
    if (fill === undefined || !gradient) return fill ?? 'none';
    const id = `course-${courses.length + 1}`;
    courses.push(gradientText(gradient, id, artwork.heightMm));
    return `url(#${id})`;
  };
  const pictureTexts = (some: readonly ArtworkPicture[]): string[] => some.map((one) => pictureText(one, artwork.heightMm));
  const body = groups.flatMap(({ layer, under, items }, index) => {
    const paths = items.map((item) => itemText(item, artwork.heightMm, fillOf(item))).join('\n');
    const group = layer === undefined ? paths : `<g id="layer-${index + 1}"><title>${escapeText(layer)}</title>\n${paths}\n</g>`;
    return [...pictureTexts(under), group];
  });
  body.push(...pictureTexts(picturesUnder(pictures, artwork.items.length, true)));
  const defs = courses.length > 0 ? [`<defs>\n${courses.join('\n')}\n</defs>`] : [];
  const [w, h] = [number(artwork.widthMm), number(artwork.heightMm)];
  return strToU8(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${w}mm" height="${h}mm" viewBox="0 0 ${w} ${h}">\n${[...defs, ...body].join('\n')}\n</svg>\n`,
  );
}
