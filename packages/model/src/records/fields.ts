/** Fields that records have in common, with the bounds that keep a drawing sane. */
import { z } from 'zod';

/** More in one group or on one page are refused. */
export const MOST_CHILDREN = 50_000;

/** Ids tell what they are of by what they begin with. */
export const id = z.string().regex(/^[a-z]+-[A-Za-z0-9_-]{1,60}$/, 'an id such as item-x1');

/** An id that knows of what it is: plain text is taken for it, the id of something else is not. Nothing of it is there at run time. */
type IdOf<Kind extends string> = string & { readonly ' id of'?: Kind };
/** An id of an item; the compiler refuses a layer's where this is wanted. */
export type ItemId = IdOf<'item'>;
/** An id of a film or print. */
export type LayerId = IdOf<'layer'>;
/** See `ItemId`. */
export const itemId = id as unknown as z.ZodType<ItemId, ItemId>;
/** See `LayerId`. */
export const layerId = id as unknown as z.ZodType<LayerId, LayerId>;
/** Nothing lies or reaches farther, mm. */
const FARTHEST_MM = 1e7;
/** A length or place, 10 km at most. */
export const mm = z.number().min(-FARTHEST_MM).max(FARTHEST_MM);
/** A size, from a hundredth of a mm to a kilometre. */
export const sizeMm = z.number().min(0.01, 'a size above zero').max(1e6, 'a size below 1 km');
/** What something is called. */
export const name = z.string().max(200);
/** A share of a hundred, never nothing. */
export const pct = z.number().min(1).max(1000);
/** A colour, six digits, small letters. */
export const hex = z.string().regex(/^#[0-9a-f]{6}$/, 'a colour such as #1b4f72');

type Map6 = readonly [number, number, number, number, number, number];

const keepsArea = ([a, b, c, d]: Map6): boolean => Math.abs(a * d - b * c) > 1e-12 && Math.abs(a * d - b * c) < 1e12;

/** Item space to drawing, [a,b,c,d,e,f]; the linear part must not flatten the plane. */
export const matrixSchema = z.tuple([z.number(), z.number(), z.number(), z.number(), mm, mm]).refine(keepsArea, 'a map that keeps an area');

/**
 * What `matrixSchema` says of a map, asked without the schema: a move asks it of thousands.
 * Law: the same answer.
 */
export const isItemMatrix = (map: Map6): boolean =>
  map.every(Number.isFinite) && Math.abs(map[4]) <= FARTHEST_MM && Math.abs(map[5]) <= FARTHEST_MM && keepsArea(map);
