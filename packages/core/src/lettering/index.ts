/** Lettering: fonts and words to outlines. */
export { axesOf, glyphOutline, isStrokeFont, joinFonts, loadFont, missingCharacters, varyFont, type Font, type FontAxis } from './font.ts';
export { describeFont, type FontDescription } from './describe-font.ts';
export type { LetterTweak } from './adjust-line.ts';
export type { ArchBend, Bend, CircleBend, PathBend, Stand } from './bend.ts';
export { readingDistance, type ReadingDistance } from './reading-distance.ts';
export { setLettering, type Align, type Letter, type LetteringLine, type LetteringSpec, type SetLettering } from './set-lettering.ts';
