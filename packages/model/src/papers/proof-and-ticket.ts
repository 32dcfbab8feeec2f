/**
 * Papers of a job as pages: the proof for the customer (the drawing to scale with its dimensions, films with names and
 * colours, job data, a line to sign, the price if wanted) and the work ticket for the shop (order of laying, films, rolls,
 * sizes, steps, press recipe, cost).
 * A4, millimetres, y up.
 */
import { area, compose, isEmptyBox, mapOutline, type Matrix, type Point } from '@lorvek/core/geometry';
import { mapItem, type ArtworkItem, type MeasureText, type PdfPageContent, type PdfPicture, type PdfText } from '@lorvek/core/format';
import type { LengthUnit } from '@lorvek/core/units';
import type { Drawing } from '../records/document.ts';
import { box, fitted, head, INK, line, LONG, MARGIN, say, scaleFor, SHORT, SOFT } from './paper.ts';
import type { Film, Layer, PrintLayer } from '../records/layers.ts';
import { isAid, isCutLine } from '../queries/plain-outline.ts';
import type { Bleed } from '../plans/bleeds.ts';
import { artworkInOrder, artworkItemsOf, boxOf, workBoxOf } from '../plans/export-artwork.ts';
import type { PiecesOf } from '../plans/plan-sheet.ts';
import { buildOf, filmsOf, isLeftOut, isPrint, layerOfCutLine, layersOf, layUpOf, leavesOf, mirrorOf, pageOf } from '../queries/queries.ts';
import type { Job } from '../api/jobs.ts';
import { describePrice, type ShopSettings, type StockFilm } from '../api/shop.ts';
import type { LayingStep } from '../plans/build-plan.ts';
import type { JobCost, LayerCost } from '../plans/job-cost.ts';

/** A measured way on the drawing: what is measured, and the line that stands off it. */
export interface MeasuredLine {
  readonly from: Point;
  readonly to: Point;
  readonly a: Point;
  readonly b: Point;
  readonly mm: number;
}

/** What proofs and work tickets are made of. */
export interface PaperInput {
  readonly drawing: Drawing;
  readonly job: Pick<Job, 'name' | 'customer' | 'dueOn' | 'revision'>;
  readonly piecesOf: PiecesOf;
  readonly dimensions: readonly MeasuredLine[];
  readonly pictures: readonly PdfPicture[];
  /** What edge cuts carry outward, under the art of its layer; its pictures are among the pictures. */
  readonly bleeds: readonly Bleed[];
  readonly stock: readonly StockFilm[];
  /** In the order of laying. */
  readonly steps: readonly LayingStep[];
  readonly cost: JobCost;
  readonly settings: ShopSettings;
  readonly measure: MeasureText;
  /** Written on the paper, ISO. */
  readonly today: string;
}

/** An arrow's head at a place, its point the way (dx, dy). */
function arrowHead(x: number, y: number, dx: number, dy: number): ArtworkItem {
  const [l, w] = [2.2, 0.7];
  const base = { x: x - l * dx, y: y - l * dy };
  const [p, q] = [
    [base.x - w * dy, base.y + w * dx],
    [base.x + w * dy, base.y - w * dx],
  ] as const;
  const spans = [
    [x, y, ...p],
    [...p, ...q],
    [...q, x, y],
  ];
  return { outline: { contours: [{ closed: true, spans }] }, closed: true, fill: INK };
}

function dimension(from: Point, to: Point, a: Point, b: Point, text: string): { items: ArtworkItem[]; text: PdfText } {
  const length = Math.hypot(b.x - a.x, b.y - a.y) || 1;
  const [dx, dy] = [(b.x - a.x) / length, (b.y - a.y) / length];
  let turnDeg = (Math.atan2(dy, dx) * 180) / Math.PI;
  if (turnDeg > 90.01 || turnDeg < -89.99) turnDeg += 180;
  const turn = (turnDeg * Math.PI) / 180;
  return {
    items: [
      line(from.x, from.y, a.x, a.y, SOFT, 0.15),
      line(to.x, to.y, b.x, b.y, SOFT, 0.15),
      line(a.x, a.y, b.x, b.y, INK, 0.2),
      arrowHead(a.x, a.y, -dx, -dy),
      arrowHead(b.x, b.y, dx, dy),
    ],
    text: {
      text,
      x: (a.x + b.x) / 2 - Math.sin(turn) * 1,
      y: (a.y + b.y) / 2 + Math.cos(turn) * 1,
      sizeMm: 3.2,
      hex: INK,
      align: 'centre',
      turnDeg,
    },
  };
}

interface FilmUse {
  readonly film: Film;
  readonly areaMm2: number;
  readonly parts: number;
}

function usedFilms({ drawing, piecesOf }: PaperInput): FilmUse[] {
  return filmsOf(drawing)
    .map((film) => {
      const pieces = leavesOf(drawing).flatMap((leaf) =>
        isAid(leaf)
          ? []
          : piecesOf(leaf)
              .filter((piece) => piece.layer === film.id)
              .map((piece) => mapOutline(leaf.matrix, piece.outline)),
      );
      return { film, areaMm2: pieces.reduce((sum, outline) => sum + Math.abs(area(outline)), 0), parts: pieces.length };
    })
    .filter(({ parts }) => parts > 0);
}

/** The price, when it is wanted on the proof. */
const priceOnProof = ({ drawing, cost, settings }: PaperInput, footer: number): PdfText[] =>
  buildOf(drawing).costOnProof
    ? [
        {
          // a price that lacks something is not told to a customer
          text: cost.lacks.length > 0 ? 'Price: not known in full yet' : `Price: ${describePrice(cost.quote.total, settings)}`,
          x: LONG - MARGIN,
          y: MARGIN + footer - 7,
          sizeMm: 4.2,
          bold: true,
          hex: INK,
          align: 'right',
        },
      ]
    : [];

/** The films with their colours, along the foot of the proof. */
function filmNames({ measure }: PaperInput, used: readonly FilmUse[], footer: number): { items: ArtworkItem[]; texts: PdfText[] } {
  const [items, texts]: [ArtworkItem[], PdfText[]] = [[], []];
  used.forEach(({ film }, i) => {
    const [cx, cy] = [MARGIN + (i % 3) * 91, MARGIN + footer - 7 - Math.floor(i / 3) * 8];
    items.push(box(cx, cy - 1.5, 7, 5, film.hex));
    const name = `${film.series} ${film.name}${isLeftOut(film) ? ' (the surface)' : ''}`;
    texts.push({ text: fitted(name, 72, 3.2, measure), x: cx + 9, y: cy, sizeMm: 3.2, hex: INK });
  });
  return { items, texts };
}

/** The proof: one page, lying. */
export function proofPages(input: PaperInput): PdfPageContent[] {
  const { drawing, piecesOf } = input;
  const { surface, unit } = pageOf(drawing);
  const work = artworkInOrder(drawing, {}, piecesOf, input.bleeds).items;
  const used = usedFilms(input);
  const films = used.length;
  const footer = 16 + Math.ceil(films / 3) * 8;
  const room = { x: MARGIN + 12, y: MARGIN + footer + 6, width: LONG - 2 * MARGIN - 20, height: SHORT - 2 * MARGIN - 30 - footer };
  const scale = scaleFor(Math.min(room.width / surface.widthMm, room.height / surface.heightMm));
  const [w, h] = [surface.widthMm * scale, surface.heightMm * scale];
  const [x, y] = [room.x + (room.width - w) / 2, room.y + (room.height - h) / 2];
  const map: Matrix = [scale, 0, 0, scale, x, y];
  const on = (p: Point): Point => ({ x: x + scale * p.x, y: y + scale * p.y });
  // the work is measured as it will be cut
  const extent = workBoxOf(drawing, piecesOf);
  const measured = input.dimensions.map((d) => dimension(on(d.from), on(d.to), on(d.a), on(d.b), say(d.mm, unit)));
  if (!isEmptyBox(extent)) {
    const [low, high] = [on({ x: extent.minX, y: extent.minY }), on({ x: extent.maxX, y: extent.maxY })];
    const [below, left] = [Math.min(low.y, y) - 5, Math.min(low.x, x) - 5];
    measured.push(
      dimension(low, { x: high.x, y: low.y }, { x: low.x, y: below }, { x: high.x, y: below }, say(extent.maxX - extent.minX, unit)),
      dimension(low, { x: low.x, y: high.y }, { x: left, y: low.y }, { x: left, y: high.y }, say(extent.maxY - extent.minY, unit)),
    );
  }
  const top = head(input, 'Proof', LONG, SHORT - MARGIN);
  const texts: PdfText[] = [...top.texts, ...measured.map((one) => one.text)];
  const items: ArtworkItem[] = [
    ...work.map(({ layer: _layer, ...item }) => mapItem(map, item)),
    ...measured.flatMap((one) => one.items),
    ...top.items,
    line(MARGIN, MARGIN + footer, LONG - MARGIN, MARGIN + footer),
  ];
  const named = filmNames(input, used, footer);
  items.push(...named.items);
  texts.push(...named.texts);
  const ratio = scale === 1 ? 'true size' : `1 : ${Math.round((1 / scale) * 10) / 10}`;
  texts.push(
    {
      text: `${surface.name}, ${say(surface.widthMm, unit)} × ${say(surface.heightMm, unit)}, shown ${ratio}`,
      x: MARGIN,
      y: MARGIN + 1,
      sizeMm: 3.2,
      hex: SOFT,
    },
    ...priceOnProof(input, footer),
    { text: 'Approved, date and name:', x: LONG - MARGIN - 110, y: MARGIN + 1, sizeMm: 3.2, hex: SOFT },
  );
  items.push(line(LONG - MARGIN - 70, MARGIN, LONG - MARGIN, MARGIN, INK));
  const pictures = input.pictures.map((picture): PdfPicture => {
    return {
      bytes: picture.bytes,
      matrix: compose(map, picture.matrix),
      ...(picture.clip ? { clip: mapOutline(map, picture.clip) } : {}),
      before: picture.before,
    };
  });
  return [{ widthMm: LONG, heightMm: SHORT, ground: [box(x, y, w, h, surface.hex)], items, texts, pictures }];
}

/** What is done with a film, in order; mirrored as its lay-up has it. */
function stepsOf(drawing: Drawing, film: Film, stock: StockFilm | undefined): string[] {
  const { mirror } = mirrorOf(layUpOf(drawing, film.id), film);
  const cut = `Cut${mirror ? ' mirrored' : ''}${film.transfer ? ', liner side down' : ''}`;
  if (!film.transfer) return [cut, 'Weed', 'Lay application tape on it', 'Apply to the surface'];
  const press = stock?.press;
  return [
    cut,
    'Weed',
    press
      ? `Press at ${press.heatC} °C for ${press.seconds} s, ${press.pressure} pressure; peel ${press.peel}`
      : 'Press as the film’s maker says: no recipe is in Stock',
  ];
}

/** What is done with a print, in order. */
function printSteps(drawing: Drawing, layer: PrintLayer, stock: StockFilm | undefined): string[] {
  const isCut = leavesOf(drawing).some((leaf) => isCutLine(leaf) && layerOfCutLine(drawing, leaf) === layer.id);
  const record = layUpOf(drawing, layer.id);
  const { laminate } = record;
  const press = stock?.press;
  const pressed = press
    ? `Press at ${press.heatC} °C for ${press.seconds} s, ${press.pressure} pressure; peel ${press.peel}`
    : 'Press as the medium’s maker says: no recipe is in Stock';
  return [
    `Print${mirrorOf(record, layer).mirror ? ' mirrored' : ''}, let the ink dry`,
    ...(laminate ? [`Laminate with ${laminate.name}`] : []),
    ...(isCut ? ['Cut by its marks', 'Weed'] : []),
    layer.medium === 'transfer' ? pressed : 'Apply to the surface',
  ];
}

/** Standing pages that are written from the top on; a new one is begun where the room ends. */
class Sheets {
  readonly pages: { items: ArtworkItem[]; texts: PdfText[] }[] = [];
  y = 0;
  private readonly input: PaperInput;

  constructor(input: PaperInput) {
    this.input = input;
    this.begin();
  }

  private begin(): void {
    const top = head(this.input, 'Work ticket', SHORT, LONG - MARGIN);
    this.pages.push({ items: [...top.items], texts: [...top.texts] });
    this.y = LONG - MARGIN - 24;
  }

  need(mm: number): void {
    if (this.y - mm < MARGIN) this.begin();
  }

  draw(...items: ArtworkItem[]): void {
    this.pages.at(-1)?.items.push(...items);
  }

  write(text: string, x: number, sizeMm = 3.4, bold = false, hex = INK): void {
    const own = fitted(text, SHORT - MARGIN - x, sizeMm, this.input.measure, bold);
    this.pages.at(-1)?.texts.push({ text: own, x, y: this.y, sizeMm, bold, hex });
  }
}

function writeLettering(sheets: Sheets, drawing: Drawing, unit: LengthUnit): void {
  const words = leavesOf(drawing).filter((leaf) => leaf.kind === 'lettering');
  if (words.length === 0) return;
  sheets.need(30);
  sheets.draw(line(MARGIN, sheets.y + 5, SHORT - MARGIN, sheets.y + 5));
  sheets.write('Lettering', MARGIN, 4.2, true);
  const lines = words
    .slice(0, MOST_WORDS)
    .map(({ text, capHeightMm, fontId }) => `“${text.replace(/\n/g, ' / ')}”, capitals ${say(capHeightMm, unit)}, ${fontId}`);
  for (const text of withRest(lines, words.length)) {
    sheets.y -= 6;
    sheets.need(4);
    sheets.write(text, MARGIN, 3.2);
  }
}

/** Letterings that are named, and what a cost lacks. */
const MOST_WORDS = 60;
const MOST_LACKS = 12;

/** Lines, and how many more there are than those. */
const withRest = (lines: readonly string[], count: number): string[] =>
  count > lines.length ? [...lines, `and ${count - lines.length} more`] : [...lines];

/** The order in which the films are laid, and what holds each. */
function writeSteps(sheets: Sheets, steps: readonly LayingStep[]): void {
  if (steps.length === 0) return;
  sheets.need(12 + 6 * steps.length);
  sheets.draw(line(MARGIN, sheets.y + 5, SHORT - MARGIN, sheets.y + 5));
  sheets.write('Order of laying', MARGIN, 4.2, true);
  for (const [i, { text, heldBy }] of steps.entries()) {
    sheets.y -= 6;
    sheets.need(4);
    sheets.write(`${i + 1}. ${text}${heldBy === null ? '' : ` Held by ${heldBy}.`}`, MARGIN, 3.2);
  }
  sheets.y -= 14;
}

const minutes = (n: number): string => (n < 90 ? `${Math.max(1, Math.round(n))} min` : `${(n / 60).toFixed(1)} h`);

/** What a film takes and costs, a line. */
const costLine = ({ cost, pressings }: LayerCost, settings: ShopSettings, unit: LengthUnit): string =>
  [
    `${say(cost.usedLengthMm, unit)} of the roll`,
    `${(cost.cutMm / 1000).toFixed(1)} m of cut`,
    `${Math.round(100 * cost.wasteShare)} % waste`,
    `weeding ${minutes(cost.weedingMinutes)}`,
    ...(cost.pressMinutes > 0 ? [`press ${pressings > 1 ? `${pressings} times, ` : ''}${minutes(cost.pressMinutes)}`] : []),
    describePrice(cost.price, settings),
  ].join(', ');

function writeCost(sheets: Sheets, { cost, settings }: PaperInput): void {
  if (cost.layers.length === 0) return;
  const { quote } = cost;
  sheets.need(24);
  sheets.draw(line(MARGIN, sheets.y + 5, SHORT - MARGIN, sheets.y + 5));
  sheets.write('Cost', MARGIN, 4.2, true);
  sheets.y -= 6;
  const work = `work ${minutes(quote.minutes)} at ${describePrice(settings.hourlyRate, settings)} an hour, ${describePrice(quote.work, settings)}`;
  sheets.write(`Film ${describePrice(quote.material, settings)}, ${work}, margin ${describePrice(quote.margin, settings)}`, MARGIN, 3.2);
  sheets.y -= 6;
  sheets.write(`In all ${describePrice(quote.total, settings)}${cost.lacks.length > 0 ? ', not complete:' : ''}`, MARGIN, 3.4, true);
  for (const text of withRest(cost.lacks.slice(0, MOST_LACKS), cost.lacks.length)) {
    sheets.y -= 5;
    sheets.need(4);
    sheets.write(text, MARGIN + 4, 3.2, false, SOFT);
  }
  sheets.y -= 14;
}

/** A layer with what it takes, the rolls that Stock has for it, and boxes to tick for each step. */
function writeLayer(
  sheets: Sheets,
  { stock, cost: { layers }, settings, drawing }: PaperInput,
  layer: Layer,
  about: string,
  stepsWith: (entry: StockFilm | undefined) => readonly string[],
): void {
  const { unit } = pageOf(drawing);
  const entry = stock.find(({ id }) => id === layer.stockId);
  const steps = stepsWith(entry);
  sheets.need(27 + 6 * steps.length);
  sheets.draw(box(MARGIN, sheets.y - 3, 10, 8, layer.hex), line(MARGIN, sheets.y + 7, SHORT - MARGIN, sheets.y + 7));
  sheets.write(`${layer.series} ${layer.name}`, MARGIN + 14, 4.2, true);
  sheets.y -= 6;
  const small = (text: string, downMm: number): void => {
    sheets.write(text, MARGIN + 14, 3.2, false, SOFT);
    sheets.y -= downMm;
  };
  small(about, 5);
  const cost = layers.find((one) => one.layer.id === layer.id);
  if (cost) small(costLine(cost, settings, unit), 5);
  const rolls = entry?.rolls.map((roll) => `${say(roll.widthMm, unit)}${roll.isOffcut ? ' offcut' : ''}`).join(', ');
  small(rolls ? `Rolls in stock: ${rolls}` : 'Not in stock', 8);
  steps.forEach((step, i) => {
    sheets.draw(box(MARGIN + 14, sheets.y - 0.8, 3.6, 3.6));
    sheets.write(`${i + 1}. ${step}`, MARGIN + 20);
    sheets.y -= 6;
  });
  sheets.y -= 8;
}

/** The work ticket: as many pages as films and prints need. */
export function ticketPages(input: PaperInput): PdfPageContent[] {
  const { drawing } = input;
  const { surface, unit } = pageOf(drawing);
  const sheets = new Sheets(input);
  sheets.write(`Surface: ${surface.name}, ${say(surface.widthMm, unit)} × ${say(surface.heightMm, unit)}`, MARGIN);
  const extent = workBoxOf(drawing, input.piecesOf);
  if (!isEmptyBox(extent)) {
    sheets.y -= 5;
    sheets.write(`Work as a whole: ${say(extent.maxX - extent.minX, unit)} × ${say(extent.maxY - extent.minY, unit)}`, MARGIN);
  }
  sheets.y -= 14;
  writeSteps(sheets, input.steps);
  for (const { film, areaMm2, parts } of usedFilms(input)) {
    if (isLeftOut(film)) continue;
    const own = boxOf(artworkItemsOf(drawing, { film: film.id }, input.piecesOf));
    const size = isEmptyBox(own) ? '' : `, ${say(own.maxX - own.minX, unit)} × ${say(own.maxY - own.minY, unit)} in all`;
    const about = `${parts} ${parts === 1 ? 'part' : 'parts'}${size}, ${(areaMm2 / 100).toFixed(0)} cm² of film`;
    writeLayer(sheets, input, film, about, (entry) => stepsOf(drawing, film, entry));
  }
  for (const layer of layersOf(drawing)) {
    const items = leavesOf(drawing).filter((leaf) => leaf.layer === layer.id && !isAid(leaf) && !isCutLine(leaf)).length;
    if (!isPrint(layer) || items === 0) continue;
    const about = `Printed on ${layer.medium} medium, ${items} ${items === 1 ? 'item' : 'items'}`;
    writeLayer(sheets, input, layer, about, (entry) => printSteps(drawing, layer, entry));
  }
  writeCost(sheets, input);
  writeLettering(sheets, drawing, unit);
  return numbered(sheets.pages);
}

const numbered = (pages: readonly { items: ArtworkItem[]; texts: PdfText[] }[]): PdfPageContent[] =>
  pages.map((one, i) => ({
    widthMm: SHORT,
    heightMm: LONG,
    items: one.items,
    texts: [
      ...one.texts,
      ...(pages.length > 1
        ? [{ text: `${i + 1} of ${pages.length}`, x: SHORT - MARGIN, y: MARGIN - 5, sizeMm: 3, hex: SOFT, align: 'right' as const }]
        : []),
    ],
  }));
