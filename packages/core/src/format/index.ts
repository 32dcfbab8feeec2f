/** Files: reading and writing. */
export { UNITS_PER_MM, writeHpgl, type ToolChoice } from './write-hpgl.ts';
export { writeSvg, type Artwork, type ArtworkItem } from './write-svg.ts';
export { readSvg, type ArtworkPicture, type ImportedArtwork, type ReadSvgOptions, type Remark, type TextRun } from './svg/read-svg.ts';
export type { ArtworkStroke } from './write-svg.ts';
