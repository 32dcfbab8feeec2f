/** What the page's workers answer, and what they have to answer it with. */
import { answerTo, COMPUTATIONS, FontsAtHand, handedOver, type Answer, type PictureHost, type Tell } from '@lorvek/computations';
import { READING } from '@lorvek/computations/reading';
import { WITH_PICTURES } from '@lorvek/computations/with-pictures';
import { PageFonts } from './page-fonts.ts';
import { PAGE_PICTURES } from './page-pictures.ts';
import type { Question } from './wire.ts';

export const PAGE_COMPUTATIONS = { ...COMPUTATIONS, ...READING, ...WITH_PICTURES } as const;

/** Outlines of so many items are kept. */
const MOST_KEPT = 100_000;

const host: PictureHost = {
  fonts: new FontsAtHand(new PageFonts(), MOST_KEPT),
  pictures: PAGE_PICTURES,
  now: () => Date.now(),
  // letters that wait for an answer come in between
  pause: () => new Promise((resolve) => setTimeout(resolve)),
  toBase64: (bytes) => {
    let text = '';
    for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
    return btoa(text);
  },
};

/** The answer, and what of it is handed over instead of copied. */
export async function answer(question: Question, tell: Tell): Promise<{ answered: Answer<unknown>; transfer: ArrayBuffer[] }> {
  const answered = await answerTo(PAGE_COMPUTATIONS, question, host, tell);
  return { answered, transfer: answered.ok ? handedOver(question.op, answered.output) : [] };
}
