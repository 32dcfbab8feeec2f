/** The ways a film can lie, and what was set for each: who looks at the grid finds the nest again, with its copies and places. */
import { USUAL_PANELS, type Fill } from '@lorvek/model';

type Kind = Fill['kind'];

/** The fill of another kind, with what both have in common. A roll is not filled to its end unless that is asked for. */
function fillOf(kind: Kind, now: Fill, hasEnd: boolean): Fill {
  const gapMm = 'gapMm' in now ? now.gapMm : 5;
  const copies = 'copies' in now && now.copies !== null ? now.copies : 1;
  switch (kind) {
    case 'as-drawn':
      return { kind, copies, gapMm, alongMm: 0, acrossMm: 0 };
    case 'grid':
      return { kind, copies: hasEnd ? null : copies, gapMm, rows: 'straight' };
    case 'nest':
      return { kind, gapMm, turnStepDeg: 90, intoHoles: false };
    case 'panels':
      return USUAL_PANELS;
  }
}

/** What was set for each way, while the page is open. */
export class FillsBefore {
  private readonly fills = new Map<string, Fill>();

  /**
   * @param film of which job and layer
   * @param hasEnd does it lie on sheets or on an offcut?
   * @returns the fill of another kind, as it was left, or a usual one
   */
  changed(film: string, now: Fill, kind: Kind, hasEnd: boolean): Fill {
    this.fills.set(`${film} ${now.kind}`, now);
    return this.fills.get(`${film} ${kind}`) ?? fillOf(kind, now, hasEnd);
  }
}
export const fillsBefore = new FillsBefore();
