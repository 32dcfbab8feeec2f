/** Files: reading and writing. */
export { UNITS_PER_MM, writeHpgl, type ToolChoice } from './write-hpgl.ts';
export { writeSvg, type Artwork, type ArtworkItem } from './write-svg.ts';
