/**
 * Separated pixels of a TIFF (TIFF 6.0, section 16: PhotometricInterpretation 5): process inks as plain pixels, every other
 * ink as a plate. Which sample is what is said by InkSet, InkNames and ExtraSamples; without names the first four are the
 * process inks, and the others are called by their number.
 */

/** An ink of its own name: RGBA, its look in every pixel, as much of it as alpha says. */
export interface PicturePlate {
  readonly name: string;
  readonly hex: string;
  readonly data: Uint8ClampedArray;
}

/** What a file says of its inks. */
export interface InkTags {
  readonly samples: number;
  /** 1: cyan, magenta, yellow, black; 2: as the names say. */
  readonly inkSet: number;
  /** As they stand in the file, one after another, each with a zero behind it. */
  readonly names: string;
  /** What samples beyond the photometric ones are: 1 and 2 alpha, else unspecified. */
  readonly extras: readonly number[];
}

/** Which samples of a pixel are which ink. */
export interface InkPlan {
  /** Samples of cyan, magenta, yellow and black; -1: there is none. */
  readonly process: readonly [number, number, number, number];
  readonly alpha: number;
  readonly spots: readonly { readonly sample: number; readonly name: string; readonly hex: string }[];
  /** Names of inks beyond the eight that become plates. */
  readonly leftOut: readonly string[];
}

const PROCESS = ['cyan', 'magenta', 'yellow', 'black'] as const;
/** Looks of inks whose colour no file tells. */
const LOOKS = ['#c8a028', '#7a4fa0', '#2f8f83', '#c4553b', '#4a6fb5', '#8a8f3a'];
const MOST_PLATES = 8;
const LONGEST_NAME = 60;

const lookOf = (name: string, i: number): string => (/white/i.test(name) ? '#ffffff' : (LOOKS[i % LOOKS.length] as string));

const tidyName = (name: string): string =>
  Array.from(name)
    .filter((c) => c >= ' ' && c !== '\u007f')
    .join('')
    .trim()
    .slice(0, LONGEST_NAME);

/** @returns which sample is which ink; at most eight plates, and the names of the inks beyond them */
export function inkPlan({ samples, inkSet, names, extras }: InkTags): InkPlan {
  const told = names.split('\0').map(tidyName);
  while (told.at(-1) === '') told.pop();
  const isAlpha = (sample: number): boolean => [1, 2].includes(extras[sample - (samples - extras.length)] ?? 0);
  const alpha = Array.from({ length: samples }, (_, i) => i).find(isAlpha) ?? -1;
  // names are of all inks, or of those beyond the four alone
  const inks = samples - extras.filter((kind) => kind === 1 || kind === 2).length;
  const shift = inkSet === 2 || told.length >= inks ? 0 : 4;
  const nameAt = (sample: number): string => told[sample - shift] ?? '';
  const named = PROCESS.map((ink) => Array.from({ length: samples }, (_, i) => nameAt(i).toLowerCase()).indexOf(ink));
  const process = (inkSet === 2 ? named : PROCESS.map((_, i) => (i < samples ? i : -1))) as unknown as InkPlan['process'];
  const used = new Set<string>();
  const all = Array.from({ length: samples }, (_, sample) => sample)
    .filter((sample) => !process.includes(sample) && sample !== alpha)
    .map((sample, i) => {
      let name = nameAt(sample) || `Ink ${sample + 1}`;
      while (used.has(name)) name = `${name} ${sample + 1}`;
      used.add(name);
      return { sample, name, hex: lookOf(name, i) };
    });
  return { process, alpha, spots: all.slice(0, MOST_PLATES), leftOut: all.slice(MOST_PLATES).map(({ name }) => name) };
}

/** @param at a sample, 0 to 255, by its number among all of the picture's */
export function separatedPixels(
  at: (i: number) => number,
  samples: number,
  pixels: number,
  { process, alpha, spots }: InkPlan,
): { data: Uint8ClampedArray; plates: PicturePlate[] } {
  const data = new Uint8ClampedArray(pixels * 4);
  // inks of their own names alone: below them is nothing
  const isBare = process.every((sample) => sample < 0);
  const plates = spots.map(({ name, hex }) => ({ name, hex, data: new Uint8ClampedArray(pixels * 4) }));
  const looks = spots.map(({ hex }) => [1, 3, 5].map((i) => Number.parseInt(hex.slice(i, i + 2), 16)));
  const ink = (p: number, sample: number): number => (sample < 0 ? 0 : at(p * samples + sample));
  for (let p = 0; p < pixels; p++) {
    const light = 255 - ink(p, process[3]);
    for (let c = 0; c < 3; c++) data[4 * p + c] = ((255 - ink(p, process[c] as number)) * light) / 255;
    data[4 * p + 3] = isBare ? 0 : alpha < 0 ? 255 : ink(p, alpha);
    plates.forEach((plate, k) => {
      const look = looks[k] as number[];
      for (let c = 0; c < 3; c++) plate.data[4 * p + c] = look[c] as number;
      plate.data[4 * p + 3] = ink(p, spots[k]?.sample ?? -1);
    });
  }
  return { data, plates };
}
