/** Which font of the shop stands for one that a file names: itself, one of its fallbacks, else the nearest in manner. */
import type { FontEntry } from '@lorvek/model';

export interface FontWanted {
  /** As the file names it: one name, or a CSS list of names and generic families. */
  readonly family: string;
  readonly weight: string;
  readonly italic: boolean;
}

export interface FontChosen {
  readonly id: string;
  /** The font's name when the file asks for another, or for none by name. */
  readonly instead: string | undefined;
}

/** Lettering of files that name no font is set in this one. */
const PLAIN = 'barlow-condensed';

/** By manner, light first: what the words of a name tell. */
const MANNERS: readonly { readonly tells: RegExp; readonly fonts: readonly [light: string, heavy: string] }[] = [
  { tells: /script|hand|brush|cursive|callig|signature/, fonts: ['great-vibes', 'kaushan-script'] },
  { tells: /fraktur|black ?letter|gothic text/, fonts: ['unifrakturcook', 'unifrakturcook'] },
  { tells: /stencil/, fonts: ['saira-stencil-one', 'saira-stencil-one'] },
  { tells: /slab|typewriter|mono|courier|egyptian/, fonts: ['rokkitt', 'alfa-slab-one'] },
  { tells: /cond|narrow|compress/, fonts: ['barlow-condensed', 'oswald'] },
  { tells: /round/, fonts: ['fredoka', 'fredoka'] },
  { tells: /sans|grotes|gothic|neue|ui\b/, fonts: ['montserrat', 'archivo-black'] },
  { tells: /serif|roman|times|antiqua|book|old ?style|didon|garamond|georgia|caslon/, fonts: ['playfair-display', 'abril-fatface'] },
];

const namesOf = (list: string): string[] =>
  list
    .split(',')
    .map((name) => name.trim().replace(/^["']|["']$/g, ''))
    .filter((name) => name !== '');

const like = (name: string): string => name.toLowerCase().replace(/[\s_-]+/g, '');

const isHeavy = (weight: string): boolean => /bold|black|heavy/i.test(weight) || Number(weight) >= 600;

/** @returns undefined when the shop has no font at all */
export function chooseFont({ family, weight, italic }: FontWanted, entries: readonly FontEntry[]): FontChosen | undefined {
  const names = namesOf(family);
  for (const [i, name] of names.entries()) {
    const known = entries.find((entry) => like(entry.name) === like(name) || like(entry.id) === like(name));
    if (known) return { id: known.id, instead: i === 0 ? undefined : known.name };
  }
  const heavy = isHeavy(weight) ? 1 : 0;
  const all = names.join(' ').toLowerCase();
  // leaning letters of no known manner are written ones
  const manner = MANNERS.find(({ tells }) => tells.test(all)) ?? (italic ? MANNERS[0] : undefined);
  const wanted = [manner?.fonts[heavy], manner?.fonts[0], names.length > 0 ? (heavy ? 'archivo-black' : 'montserrat') : PLAIN, PLAIN];
  const found = wanted.map((id) => entries.find((entry) => entry.id === id)).find((entry) => entry !== undefined) ?? entries[0];
  return found && { id: found.id, instead: found.name };
}
