/** A colour of the artwork: as it is seen, and what a file or a hand gave it besides. */
import { z } from 'zod';
import { hex } from './fields.ts';

/** A colour to print. */
export const colourSchema = z.object({
  hex,
  /** Named ink, printed on a plate of its own. */
  spot: z.string().min(1, 'a name').max(80).optional(),
  /** Process values as they came, 0 to 1. */
  cmyk: z.tuple([z.number(), z.number(), z.number(), z.number()]).optional(),
});
export type Colour = z.infer<typeof colourSchema>;
