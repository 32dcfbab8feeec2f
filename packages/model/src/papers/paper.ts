/** What papers have in common: A4, their inks, lines and boxes, texts cut to their room, the head, round scales. mm, y up. */
import { boxShape, mapOutline, translation } from '@lorvek/core/geometry';
import type { ArtworkItem, MeasureText, PdfText } from '@lorvek/core/format';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { Job } from '../api/jobs.ts';

/** What stands at the head of a paper. */
export interface HeadInput {
  readonly job: Pick<Job, 'name' | 'customer' | 'dueOn' | 'revision'>;
  readonly measure: MeasureText;
  /** Written on the paper, ISO. */
  readonly today: string;
}

export const [LONG, SHORT, MARGIN] = [297, 210, 12];
/** Words and outlines on papers. */
export const INK = '#1b2733';
/** What matters less. */
export const SOFT = '#5b6470';
/** Rules and frames. */
export const LINE = '#b9b3a4';

/** A straight rule, mm on the page. */
export const line = (x0: number, y0: number, x1: number, y1: number, hex = LINE, widthMm = 0.25): ArtworkItem => ({
  outline: { contours: [{ closed: false, spans: [[x0, y0, x1, y1]] }] },
  closed: false,
  stroke: { hex, widthMm },
});

/** A rectangle, mm on the page; filled, framed or both. */
export const box = (x: number, y: number, width: number, height: number, fill?: string): ArtworkItem => ({
  outline: mapOutline(translation(x, y), boxShape(width, height)),
  closed: true,
  ...(fill === undefined ? {} : { fill }),
  stroke: { hex: LINE, widthMm: 0.25 },
});

/**
 * A text cut short with dots where it would be longer than its room.
 * @complexity a measure a letter that is cut off
 */
export function fitted(text: string, roomMm: number, sizeMm: number, measure: MeasureText, bold = false): string {
  if (measure(text, sizeMm, bold) <= roomMm) return text;
  let end = text.length;
  while (end > 1 && measure(`${text.slice(0, end)}…`, sizeMm, bold) > roomMm) end--;
  return `${text.slice(0, end)}…`;
}

/**
 * A length to a hundredth of a mm, in the job's unit.
 * @returns figures and the unit
 */
export const say = (mm: number, unit: LengthUnit): string => describeLength(Math.round(mm * 10) / 10, unit);

/** The head of a paper: what it is, of which job, for whom, of what day. */
export function head(input: HeadInput, title: string, width: number, top: number): { texts: PdfText[]; items: ArtworkItem[] } {
  const { job, today, measure } = input;
  const right = `${today}${job.dueOn ? `   due ${job.dueOn}` : ''}`;
  return {
    texts: [
      { text: fitted(job.name, width - 2 * MARGIN - 90, 6, measure, true), x: MARGIN, y: top - 6, sizeMm: 6, bold: true, hex: INK },
      {
        text: fitted(job.customer || 'No customer', width - 2 * MARGIN - 90, 3.6, measure),
        x: MARGIN,
        y: top - 12,
        sizeMm: 3.6,
        hex: SOFT,
      },
      { text: title, x: width - MARGIN, y: top - 6, sizeMm: 4.6, bold: true, hex: INK, align: 'right' },
      { text: right, x: width - MARGIN, y: top - 12, sizeMm: 3.2, hex: SOFT, align: 'right' },
    ],
    items: [line(MARGIN, top - 15, width - MARGIN, top - 15, INK, 0.4)],
  };
}

/**
 * Round scales such as 1:2, 1:5, 1:20 that a drawing is shown at; never larger than true.
 * @param fit greatest scale that the page has room for, 1: true size
 */
export function scaleFor(fit: number): number {
  if (fit >= 1) return 1;
  for (let ten = 1; ten < 1e6; ten *= 10)
    for (const step of [1, 1.5, 2, 2.5, 4, 5, 7.5]) if (1 / (ten * step) <= fit) return 1 / (ten * step);
  return fit;
}
