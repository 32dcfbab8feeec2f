/** Painting what edge cuts carry outward, as far as it belongs to the drawing that is shown. */
import { IDENTITY } from '@lorvek/core/geometry';
import { itemOf, type Drawing } from '@lorvek/model';
import type { Bleed } from '@lorvek/model/bleeds';
import type { PaintOptions } from './paint.ts';
import { inItem } from './paint.ts';
import { paintItem } from './print-page.ts';

/** Bleed whose items are as they were when it was worked out; that of others is on its way. */
export const bleedsOn = (drawing: Drawing, bleeds: readonly Bleed[], bledIn: Drawing): readonly Bleed[] =>
  bleeds.filter(({ of }) => of.every((id) => itemOf(drawing, id) === itemOf(bledIn, id)));

/** A drag that moves all that a bleed goes round takes it along; one that moves a part of it leaves it out till it is let go. */
export function paintBleeds(bleeds: readonly Bleed[], { moved, preview }: Pick<PaintOptions, 'moved' | 'preview'>): PaintOptions['under'] {
  return (context, layer) => {
    for (const bleed of bleeds) {
      if (bleed.layer !== layer) continue;
      const round = bleed.of.filter((id) => id !== bleed.cut);
      const going = preview ? round.filter((id) => moved.has(id)).length : 0;
      if (going > 0 && going < round.length) continue;
      inItem(context, preview && going > 0 ? preview : IDENTITY, () => {
        for (const item of bleed.art) paintItem(context, item);
      });
    }
  };
}
