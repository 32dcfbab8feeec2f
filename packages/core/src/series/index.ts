/** One design, many pieces: the customer's list and counters. */
export { readList, type List, type ListOptions } from './read-list.ts';
export { type Encoding } from './encodings.ts';
export { SEPARATORS, type Separator } from './separated.ts';
export { counterText, type CounterOptions } from './counter.ts';
