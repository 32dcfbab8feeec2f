/** Lettering: fonts and words to outlines. */
export { loadFont, joinFonts, missingCharacters, glyphOutline, type Font } from './font.ts';
export { setLettering, type Align, type Letter, type LetteringLine, type LetteringSpec, type SetLettering } from './set-lettering.ts';
