/** The picture of a sheet after the blade: every stroke the tip made, true to size, as SVG in mm. */

import { formatPath, type Outline } from '@lorvek/core/geometry';

const MOST_POINTS = 2_000_000;

export class CutPicture {
  private readonly strokes: number[][] = [];
  private points = 0;
  cutMm = 0;

  /** The tool goes down here. */
  begin(x: number, y: number): void {
    this.strokes.push([x, y]);
    this.points++;
  }

  /** The tip goes on to here. */
  add(x: number, y: number): void {
    const stroke = this.strokes.at(-1);
    if (!stroke || this.points >= MOST_POINTS) return;
    this.cutMm += Math.hypot(x - (stroke.at(-2) as number), y - (stroke.at(-1) as number));
    stroke.push(x, y);
    this.points++;
  }

  /** Everywhere the tip was. */
  *places(): Generator<readonly [number, number]> {
    for (const stroke of this.strokes)
      if (stroke.length > 2) for (let i = 0; i < stroke.length; i += 2) yield [stroke[i] as number, stroke[i + 1] as number];
  }

  /** The strokes as open lines. */
  lines(): Outline {
    const drawn = this.strokes.filter((stroke) => stroke.length > 2);
    return {
      contours: drawn.map((stroke) => ({
        closed: false,
        spans: Array.from({ length: stroke.length / 2 - 1 }, (_, i) => stroke.slice(2 * i, 2 * i + 4) as [number, number, number, number]),
      })),
    };
  }

  /** The strokes as SVG in mm, y up. */
  art(): string {
    return `<path d="${formatPath(this.lines(), 3)}" fill="none" stroke="#16202e" stroke-width="0.4"/>`;
  }

  /**
   * @param widthMm material across; the length is what the strokes need
   * @param under what lies below the strokes, SVG in mm, y up
   */
  toSvg(widthMm: number, under: { readonly art: string; readonly lengthMm: number } = { art: '', lengthMm: 0 }): string {
    let length = Math.max(10, under.lengthMm);
    for (const stroke of this.strokes) for (let i = 0; i < stroke.length; i += 2) length = Math.max(length, (stroke[i] as number) + 10);
    const n = (v: number): string => String(Math.round(v * 1000) / 1000);
    const paths = this.strokes
      .filter((stroke) => stroke.length > 2)
      .map((stroke) => {
        let d = '';
        for (let i = 0; i < stroke.length; i += 2)
          d += `${i === 0 ? 'M' : 'L'}${n(stroke[i] as number)} ${n(widthMm - (stroke[i + 1] as number))}`;
        return `<path d="${d}"/>`;
      });
    return `<svg xmlns="http://www.w3.org/2000/svg" width="${n(length)}mm" height="${n(widthMm)}mm" viewBox="0 0 ${n(length)} ${n(widthMm)}"><style>path{vector-effect:non-scaling-stroke}</style><rect width="100%" height="100%" fill="#faf8f3"/>${under.art === '' ? '' : `<g transform="matrix(1 0 0 -1 0 ${n(widthMm)})">${under.art}</g>`}<g fill="none" stroke="${under.art === '' ? '#16202e' : '#0b6e6b'}" stroke-width="1.2" stroke-linejoin="round">${paths.join('')}</g></svg>`;
  }
}
