/** The ways a film can lie, and what was set for each: who looks at the grid finds the nest again, with its copies and places. */
import { USUAL_PANELS, type Fill } from '@lorvek/model';

type Kind = Fill['kind'];

/** The fill of another kind, with what both have in common. */
function fillOf(kind: Kind, now: Fill): Fill {
  const gapMm = 'gapMm' in now ? now.gapMm : 5;
  const copies = 'copies' in now && now.copies !== null ? now.copies : 1;
  switch (kind) {
    case 'as-drawn':
      return { kind, copies, gapMm, alongMm: 0, acrossMm: 0 };
    case 'grid':
      return { kind, copies: null, gapMm, rows: 'straight' };
    case 'nest':
      return { kind, gapMm, turnStepDeg: 90, intoHoles: false };
    case 'panels':
      return USUAL_PANELS;
  }
}

/** What was set for each way, while the page is open. */
export class FillsBefore {
  private readonly fills = new Map<string, Fill>();

  /** @param film of which job and layer @returns the fill of another kind, as it was left, or a usual one */
  changed(film: string, now: Fill, kind: Kind): Fill {
    this.fills.set(`${film} ${now.kind}`, now);
    return this.fills.get(`${film} ${kind}`) ?? fillOf(kind, now);
  }
}
export const fillsBefore = new FillsBefore();
