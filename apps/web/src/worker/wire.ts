/** What the page and its workers say to one another. */
import type { Answer, InputOf, OpOf, OutputOf, QuestionOf } from '@lorvek/computations';
import type { PAGE_COMPUTATIONS } from './engine.ts';
import type { DrawingNews } from './mirror.ts';

type Computations = typeof PAGE_COMPUTATIONS;
export type Op = OpOf<Computations>;
export type Input<K extends Op> = InputOf<Computations, K>;
export type Output<K extends Op> = OutputOf<Computations, K>;

export type Question = QuestionOf<Computations> & { readonly id: number };
/** A question on its way: of a drawing goes what the worker's mirror has not. */
export interface Posted {
  readonly question: Question;
  /** Stands for the drawing in the question's input. */
  readonly news?: DrawingNews;
}
/** How much of it is done, 0 to 1, from time to time before the answer. */
export interface Underway {
  readonly id: number;
  readonly share: number;
  /** The best answer so far, from what betters its answers. */
  readonly soFar?: unknown;
}
/** The worker cannot work: its engine did not come. A new one has to be started. */
export interface Broken {
  readonly broken: true;
}
export type Answered = Answer<unknown> & { readonly id: number };
