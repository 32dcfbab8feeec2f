/** Files: reading and writing. */
export type {
  Artwork,
  ArtworkItem,
  ArtworkPicture,
  ArtworkStroke,
  ArtworkText,
  ImportedArtwork,
  ReadOptions,
  Remark,
  SetInstead,
  TextOutline,
  TextRun,
  PageBox,
  PageBoxName,
} from './artwork.ts';
export { mapItem, picturesUnder } from './artwork.ts';
export { UNITS_PER_MM, writeHpgl, writeHpglSections, type HpglSection, type ToolChoice } from './write-hpgl.ts';
export { writeSvg } from './write-svg.ts';
export { readSvg, type ReadSvgOptions } from './svg/read-svg.ts';
export { readPdf, type ReadPdfOptions } from './pdf/read-pdf.ts';
export { writeDxf } from './write-dxf.ts';
export { textMeasure, writePdf, writePdfPages, type MeasureText, type PdfPageContent, type PdfPicture, type PdfText } from './write-pdf.ts';
export { withResolution, writePng, type PngPicture } from './write-png.ts';
export { readTiff, type TiffPicture } from './read-tiff.ts';
export type { PicturePlate } from './tiff-inks.ts';
export { readHpgl } from './read-hpgl.ts';
export { readDxf, type ReadDxfOptions } from './dxf/read-dxf.ts';
