/** Printing: the page, its file, its plates, process inks. */
export type {
  PictureSource,
  PrintColour,
  PrintForm,
  PrintItem,
  PrintLineKind,
  PrintPage,
  PrintPass,
  PrintPicture,
  WhiteCoverage,
} from './page.ts';
export { pagesOfPasses } from './page.ts';
export { LINE_INKS, type LineInk } from './line-inks.ts';
export { openProfile, type ProcessColours } from './process-colours.ts';
export { INTENTS, USUAL_RENDERING, type Intent, type Rendering } from './rendering.ts';
export { REACH_DELTA, softView, type SoftView } from './soft-view.ts';
export { writePrintPdf, type PrintPdfOptions } from './write-print-pdf.ts';
export { makePlates, PROCESS_INKS, type Plate, type PlatesOptions } from './make-plates.ts';
export { WHITE_INK, whiteOutline, whiteShares, withoutInks } from './white.ts';
export { coverOf, type Cover } from './coverage.ts';
export type { ByteSink } from './pdf-file.ts';
export { tilePages, writeTiledPdf, type PaperSize, type Tile, type Tiling } from './tile-pages.ts';
