/**
 * A print in passes: colour, white and colour again, each with its own art or all of it. What is glued to glass is seen from
 * both sides so, and what came as several files of one size is put together.
 */
import { bounds, compose, EMPTY_BOX, isEmptyBox, joinBoxes, mapOutline, boxShape, type Box, type Matrix } from '@lorvek/core/geometry';
import { mapGradient } from '@lorvek/core/colour';
import type { Finding } from '@lorvek/core/check';
import type { PrintForm, PrintItem, PrintPage, PrintPass } from '@lorvek/core/print';
import { isPrint, leavesOf, topOf } from '../queries/queries.ts';
import type { Drawing } from '../records/document.ts';
import type { Layer, PassRule, PrintLayer } from '../records/layers.ts';

/** A pass of the printer: colour or white, and of which items. */
export interface PassPlan {
  readonly kind: PassRule['kind'];
  readonly name: string;
  readonly mirror: boolean;
  /** Items whose art it is; null: all. */
  readonly leaves: ReadonlySet<string> | null;
  /** The item of the first level that its art is a part of: parts of one drawing lie in register whatever their sizes. */
  readonly within?: string;
}

/** Sizes that differ by more are not of one print, mm. */
const SAME_MM = 0.1;

/** The passes that a rule of white asks for, when nobody set them. */
export const usualPasses = ({ white }: Pick<PrintLayer, 'white'>): PassRule[] => {
  const pass = (kind: PassRule['kind'], mirror = false): PassRule => ({ kind, items: null, mirror });
  if (!white) return [pass('colour')];
  if (white.where === 'between') return [pass('colour', true), pass('white'), pass('colour')];
  return white.where === 'behind' ? [pass('white'), pass('colour')] : [pass('colour'), pass('white')];
};

const rulesOf = (layer: PrintLayer): readonly PassRule[] => layer.passes ?? (layer.white?.where === 'between' ? usualPasses(layer) : []);

/** The passes of a print, in the order they are laid down; none: all at once. */
export function passesOf(drawing: Drawing, layer: Layer): PassPlan[] {
  if (!isPrint(layer)) return [];
  return rulesOf(layer).map(({ kind, items, mirror }, i) => ({
    kind,
    mirror,
    name: `${i + 1} ${kind === 'colour' ? 'colour' : 'white'}`,
    leaves: items && new Set(leavesOf(drawing, items).map(({ id }) => id)),
    ...withinOf(drawing, items),
  }));
}

function withinOf(drawing: Drawing, items: readonly string[] | null): Pick<PassPlan, 'within'> {
  const tops = new Set((items ?? []).map((id) => topOf(drawing, id)));
  const [only] = tops;
  return tops.size === 1 && only !== undefined && !items?.includes(only) ? { within: only } : {};
}

const isOf = ({ leaves }: PassPlan, { of }: PrintItem): boolean => leaves === null || of === undefined || leaves.has(of);

/** The box of what is printed. */
export const boxOfArt = (items: readonly PrintItem[]): Box =>
  items.reduce((box, item) => {
    const own = item.kind === 'shape' ? bounds(item.outline) : bounds(item.clip ?? mapOutline(item.matrix, boxShape(1, 1)));
    return isEmptyBox(own) ? box : joinBoxes(box, own);
  }, EMPTY_BOX);

/** An item under a map. */
const mapArt = (m: Matrix, item: PrintItem): PrintItem =>
  item.kind === 'picture'
    ? { ...item, matrix: compose(m, item.matrix), ...(item.clip ? { clip: mapOutline(m, item.clip) } : {}) }
    : { ...item, outline: mapOutline(m, item.outline), ...(item.gradient ? { gradient: mapGradient(m, item.gradient) } : {}) };

/** Art turned over left to right in its own box. Of a panel the box is the whole's: what is seen through it is the other end. */
function turnedOver(items: readonly PrintItem[]): PrintItem[] {
  const box = boxOfArt(items);
  return isEmptyBox(box) ? [...items] : items.map((item) => mapArt([-1, 0, 0, 1, box.minX + box.maxX, 0], item));
}

/** The page's forms and places, pass by pass. */
export function printPasses(passes: readonly PassPlan[], { forms, placements }: Pick<PrintPage, 'forms' | 'placements'>): PrintPass[] {
  return passes.map((pass): PrintPass => {
    const own = forms.map((form): PrintForm => {
      const items = pass.mirror ? turnedOver(form.items) : form.items;
      return { ...form, items: items.filter((item) => isOf(pass, item)) };
    });
    return { kind: pass.kind, name: pass.name, forms: own, placements };
  });
}

/** What is wrong with the passes: art of other sizes, art in none, a pass without any. */
export function findPasses(layer: Layer, passes: readonly PassPlan[], art: readonly PrintItem[], ids: readonly string[]): Finding[] {
  if (passes.length === 0 || art.length === 0) return [];
  const say = (level: Finding['level'], text: string): Finding => ({ code: 'passes', level, text, parts: ids.slice(0, 50) });
  const sized = passes
    .map((pass) => ({ pass, items: art.filter((item) => isOf(pass, item)) }))
    .map((one) => ({ ...one, box: boxOfArt(one.items) }));
  const out = sized.flatMap(({ pass, items }) =>
    items.length === 0 ? [say('warning', `Pass “${pass.name}” of “${layer.name}” has no art: nothing is laid down in it.`)] : [],
  );
  const whole = sized.filter(({ items }) => items.length > 0);
  const sizeOf = ({ minX, minY, maxX, maxY }: Box): [number, number] => [maxX - minX, maxY - minY];
  const [first, ...others] = whole;
  const isOneDrawing = first?.pass.within !== undefined && others.every(({ pass }) => pass.within === first.pass.within);
  const other = isOneDrawing
    ? undefined
    : first && others.find(({ box }) => sizeOf(box).some((mm, i) => Math.abs(mm - (sizeOf(first.box)[i] as number)) > SAME_MM));
  if (first && other) {
    const text = (box: Box): string =>
      sizeOf(box)
        .map((mm) => `${mm.toFixed(1)} mm`)
        .join(' × ');
    out.push(
      say(
        'stop',
        `What is printed in passes has one size: pass “${first.pass.name}” of “${layer.name}” is ${text(first.box)}, pass “${other.pass.name}” is ${text(other.box)}.`,
      ),
    );
  }
  const left = art.filter((item) => !passes.some((pass) => isOf(pass, item)));
  if (left.length > 0) out.push(say('warning', `Some art of “${layer.name}” is in no pass: it is not printed.`));
  if (passes.some(({ kind }) => kind === 'white') && isPrint(layer) && !layer.white)
    out.push(say('stop', `“${layer.name}” has a pass of white and no rule for it: switch white on.`));
  return out;
}
