/** What a font file says of itself, for a list of fonts: name, scripts, axes, licence. Texts are cut to a sane length. */
import { InputError } from '../errors/index.ts';
import { axesOf, loadFont, type FontAxis } from './font.ts';

/** What a font file says of itself. */
export interface FontDescription {
  readonly name: string;
  readonly weight: number;
  readonly scripts: readonly string[];
  readonly axes: readonly FontAxis[];
  /** The font's own words on its licence and copyright; empty when it has none. */
  readonly licence: string;
}

const SCRIPT_SAMPLES: readonly (readonly [string, string])[] = [
  ['latin', 'Aa'],
  ['greek', 'Ωω'],
  ['cyrillic', 'Жж'],
  ['arabic', 'اب'],
  ['hebrew', 'אב'],
  ['devanagari', 'कख'],
  ['chinese', '中文'],
  ['japanese', 'あア'],
];
const COPYRIGHT = 0;
const LICENCE = 13;
const LICENCE_ADDRESS = 14;

/** @throws InputError `input.font` for anything that is no font or has no letters */
export function describeFont(bytes: Uint8Array): FontDescription {
  const font = loadFont(bytes);
  const [file] = font.files;
  if (!file) throw new InputError('font', 'This font has no letters.');
  const face = file.face;
  const own = (nameId: number): string => {
    const entry = face?.listNames().find((name) => name.nameId === nameId);
    return entry && face ? face.getName(nameId, entry.language).trim().slice(0, 20_000) : '';
  };
  return {
    name: font.name.trim().slice(0, 120),
    weight: 400,
    scripts: SCRIPT_SAMPLES.filter(([, sample]) => [...sample].every((c) => file.unicodes.has(c.codePointAt(0) as number))).map(
      ([name]) => name,
    ),
    axes: axesOf(font),
    licence: [own(COPYRIGHT), own(LICENCE), own(LICENCE_ADDRESS)].filter((text) => text !== '').join('\n\n'),
  };
}
