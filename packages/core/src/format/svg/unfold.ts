/** How much a file unfolds to when every use is followed, told before anything is unfolded. */
import { LimitError } from '../../errors/index.ts';
import type { XmlElement } from './xml.ts';

/** Elements that are drawn nowhere by themselves. */
export const PASSED_OVER = new Set([
  'defs',
  'style',
  'title',
  'desc',
  'metadata',
  'symbol',
  'clipPath',
  'mask',
  'marker',
  'pattern',
  'linearGradient',
  'radialGradient',
  'filter',
  'font',
  'view',
  'animate',
  'animateTransform',
  'set',
  'a11y',
]);

/** Elements that uses unfold to. */
const MOST_UNFOLDED = 150_000;

/** A file that would unfold without end, said in one way. */
export const repeatsTooOften = (): LimitError => new LimitError('svg', 'The file repeats its parts so often that they cannot all be read.');

/** Each element is counted once and remembered; a circle ends. */
function unfolded(
  element: XmlElement,
  find: (reference: string | undefined) => XmlElement | undefined,
  known: Map<XmlElement, number>,
): number {
  const before = known.get(element);
  if (before !== undefined) return before;
  known.set(element, 0);
  let sum = 1;
  const target = element.name === 'use' ? find(element.attributes.href) : undefined;
  if (target) sum += unfolded(target, find, known);
  for (const child of element.children) if (!PASSED_OVER.has(child.name)) sum += unfolded(child, find, known);
  known.set(element, sum);
  return sum;
}

/** @param elements those of the file itself @throws LimitError `limit.svg` */
export function refuseEndlessUses(
  root: XmlElement,
  elements: number,
  find: (reference: string | undefined) => XmlElement | undefined,
): void {
  const sum = unfolded(root, find, new Map());
  if (sum > elements && sum > MOST_UNFOLDED) throw repeatsTooOften();
}
