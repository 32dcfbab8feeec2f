/** How colours go through a profile: chosen in the shop, apart from the engine that does it. */
/** What becomes of colours that the inks do not reach (ICC.1:2010, 0.2). */
export const INTENTS = ['perceptual', 'relative', 'saturation', 'absolute'] as const;
/** Rendering intents of ICC.1. */
export type Intent = (typeof INTENTS)[number];

/** How colours that an ink cannot reach are treated. */
export interface Rendering {
  readonly intent: Intent;
  /** The darkest that is asked for becomes the darkest that is printed. */
  readonly blackPoint: boolean;
}
/** As it is until somebody says otherwise. */
export const USUAL_RENDERING: Rendering = { intent: 'relative', blackPoint: true };
