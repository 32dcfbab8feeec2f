/**
 * TIFF to plain pixels (TIFF 6.0; parsing by geotiff, fax codings by utif2): grey, palette, RGB, CMYK, YCbCr and L*a*b* of 8 or 16 bits,
 * with alpha where there is one, upright by its orientation, with the resolution that it states. Pixels are RGBA,
 * straight alpha, top row first. Limits: 400 MB, 100 million pixels.
 */
import { addDecoder, BaseDecoder, fromArrayBuffer } from 'geotiff';
import { InputError, LimitError } from '../errors/index.ts';
import { inkPlan, separatedPixels, type PicturePlate } from './tiff-inks.ts';
import { FAX_CODINGS, faxPixels, faxStrips } from './tiff-fax.ts';
import { unpackLzw } from './tiff-lzw.ts';

/** The picture as it is seen: four bytes a pixel. */
export interface TiffPicture {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8ClampedArray;
  /** Across. */
  readonly pixelsPerMm?: number;
  /** Height of a pixel by its width, when they differ: faxes have 204 by 98 or 196 dots an inch. */
  readonly pixelAspect?: number;
  /** Inks of their own names, upright as the pixels are. */
  readonly plates?: readonly PicturePlate[];
  /** Names of inks that are on none of the plates: there are more than a picture is taken apart into. */
  readonly inksLeftOut?: readonly string[];
}

const MOST_BYTES = 400 * 1024 * 1024;
const MOST_PIXELS = 100_000_000;
const ORIENTATION = 0x0112;
const BITS_PER_SAMPLE = 0x0102;
const INK_NAMES = 0x014d;
/** Photometric kinds whose bands are shown as they are; the others are turned to RGB by the parser. */
const BANDS = { grey: new Set([0, 1]), rgb: 2, cmyk: 5 };
const AS_THEY_ARE: ReadonlySet<number> = new Set([...BANDS.grey, BANDS.rgb, BANDS.cmyk]);

type Bands = ArrayLike<number>;

/** What is used of the parser's directory of tags. */
interface Directory {
  hasTag(name: string | number): boolean;
  loadValue(name: string | number): Promise<unknown>;
  readonly actualizedFields: Map<number, unknown>;
}

/** A text of the file; empty when there is none. */
async function textOf(directory: Directory, tag: number): Promise<string> {
  const found = directory.hasTag(tag) ? await directory.loadValue(tag) : '';
  return typeof found === 'string' ? found : '';
}

/** To 0..255 of a sample of so many bits. */
const scaleOf = (bits: number): number => 255 / (2 ** Math.min(bits, 32) - 1);

function toRgba(bands: Bands, kind: number, samples: number, bits: number, pixels: number): Uint8ClampedArray {
  const out = new Uint8ClampedArray(pixels * 4);
  const k = scaleOf(bits);
  const v = (i: number): number => (bands[i] ?? 0) * k;
  for (let p = 0; p < pixels; p++) {
    const i = p * samples;
    const rgb: [number, number, number] = [0, 0, 0];
    let alpha = 255;
    if (BANDS.grey.has(kind)) {
      const grey = kind === 0 ? 255 - v(i) : v(i);
      rgb.fill(grey);
      if (samples > 1) alpha = v(i + 1);
    } else {
      for (let c = 0; c < 3; c++) rgb[c] = v(i + c);
      if (samples > 3) alpha = v(i + 3);
    }
    out.set([...rgb, alpha], p * 4);
  }
  return out;
}

/** Turned and mirrored so that the first row is the top and the first column the left (orientations 2 to 8). */
function upright(data: Uint8ClampedArray, width: number, height: number, orientation: number): TiffPicture {
  if (!(orientation >= 2 && orientation <= 8)) return { width, height, data };
  const onSide = orientation >= 5;
  const [w, h] = onSide ? [height, width] : [width, height];
  const from = new Uint32Array(data.buffer);
  const to = new Uint32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [a, b] = onSide ? [y, x] : [x, y];
      const sx = [2, 3, 7, 8].includes(orientation) ? width - 1 - a : a;
      const sy = [3, 4, 6, 7].includes(orientation) ? height - 1 - b : b;
      to[y * w + x] = from[sy * width + sx] as number;
    }
  return { width: w, height: h, data: new Uint8ClampedArray(to.buffer) };
}

type Resolution = Pick<TiffPicture, 'pixelsPerMm' | 'pixelAspect'>;

/** What is stated of the size of pixels, for a picture that lies on its side by its other way. */
function resolutionOf(
  [across, along]: readonly [ArrayLike<number> | undefined, ArrayLike<number> | undefined],
  unit: number | undefined,
  onSide: boolean,
): Resolution {
  const perMm = (told: ArrayLike<number> | undefined): number => (told?.[0] ?? 0) / (told?.[1] ?? 1) / (unit === 3 ? 10 : 25.4);
  const [x, y] = onSide ? [perMm(along), perMm(across)] : [perMm(across), perMm(along)];
  const isKnown = unit !== 1 && x > 0.1 && x < 1000;
  const aspect = x > 0 && y > 0 ? x / y : 1;
  return {
    ...(isKnown ? { pixelsPerMm: x } : {}),
    ...(Math.abs(aspect - 1) > 1e-3 && aspect > 0.1 && aspect < 10 ? { pixelAspect: aspect } : {}),
  };
}

/** No coding of a picture makes more of a byte than so many; more bands than so many are no picture. */
const MOST_TIMES = 5000;
const MOST_SAMPLES = 16;

interface Blocks {
  readonly width: number;
  readonly height: number;
  readonly samples: number;
  /** Strips or tiles that the head claims, and those that it tells the place of. */
  readonly claimed: number;
  readonly told: number;
}

const countOf = (list: ArrayLike<number> | undefined): number => list?.length ?? 0;

/** @throws InputError when the file cannot hold the pixels that its head claims */
function checkClaim({ width, height, samples, claimed, told }: Blocks, held: number): void {
  if (samples > MOST_SAMPLES || !(claimed <= told) || (width * height * samples) / 8 > MOST_TIMES * held)
    throw new InputError('picture', 'The picture claims more pixels than the file holds. Save it as PNG or JPEG.');
}

type Value = (name: string | number) => Promise<ArrayLike<number> | undefined>;

/** What a picture in a coding of fax says of itself. */
interface FaxHead {
  readonly width: number;
  readonly height: number;
  readonly compression: number;
  readonly photometric: number;
  /** Strips that it claims. */
  readonly claimed: number;
}

async function readFax(bytes: Uint8Array, head: FaxHead, value: Value): Promise<Uint8ClampedArray> {
  const first = async (name: string, usual: number): Promise<number> => (await value(name))?.[0] ?? usual;
  const { width, height, compression, photometric, claimed } = head;
  return faxPixels({
    width,
    height,
    compression,
    photometric,
    rowsPerStrip: Math.min(height, await first('RowsPerStrip', height)),
    fillOrder: await first('FillOrder', 1),
    options: await first('T4Options', 0),
    strips: faxStrips(bytes, (await value('StripOffsets')) ?? [], (await value('StripByteCounts')) ?? [], claimed),
  });
}

interface SeparatedHead {
  readonly samples: number;
  readonly bits: number;
  readonly width: number;
  readonly height: number;
  readonly turned: number;
}

/** A picture in inks, with the plates of those that are no process inks. */
async function separated(
  bands: Bands,
  { samples, bits, width, height, turned }: SeparatedHead,
  directory: Directory,
  value: Value,
): Promise<TiffPicture> {
  const plan = inkPlan({
    samples,
    inkSet: (await value('InkSet'))?.[0] ?? 1,
    names: await textOf(directory, INK_NAMES),
    extras: Array.from((await value('ExtraSamples')) ?? []),
  });
  const k = scaleOf(bits);
  const { data, plates } = separatedPixels((i) => (bands[i] ?? 0) * k, samples, width * height, plan);
  const turn = (pixels: Uint8ClampedArray): TiffPicture => upright(pixels, width, height, turned);
  const upPlates = plates.map((plate) => ({ ...plate, data: turn(plate.data).data }));
  return {
    ...turn(data),
    ...(plates.length > 0 ? { plates: upPlates } : {}),
    ...(plan.leftOut.length > 0 ? { inksLeftOut: plan.leftOut } : {}),
  };
}

/** LZW with a bound: the parser's own one can be led in a circle. */
class BoundedLzw extends BaseDecoder {
  override decodeBlock(buffer: ArrayBufferLike): ArrayBufferLike {
    const { tileWidth, tileHeight, bitsPerSample, planarConfiguration, samplesPerPixel } = this.parameters as unknown as LzwParameters;
    const bits = typeof bitsPerSample === 'number' ? [bitsPerSample] : Array.from(bitsPerSample);
    const perPixel =
      planarConfiguration === 2
        ? Math.max(...bits)
        : bits.length > 1
          ? bits.reduce((a, b) => a + b, 0)
          : (bits[0] ?? 8) * (samplesPerPixel ?? 1);
    const most = tileHeight * Math.ceil((tileWidth * perPixel) / 8);
    return unpackLzw(new Uint8Array(buffer), Math.min(most, MOST_BYTES)).buffer as ArrayBuffer;
  }
}

interface LzwParameters {
  readonly tileWidth: number;
  readonly tileHeight: number;
  readonly bitsPerSample: number | ArrayLike<number>;
  readonly planarConfiguration: number;
  readonly samplesPerPixel?: number;
}

addDecoder([5], () => Promise.resolve(BoundedLzw as never));

/** The values of a tag as a list, also where it has one only. */
const valuesOf =
  (directory: Directory): Value =>
  async (name) => {
    const found = directory.hasTag(name) ? await directory.loadValue(name) : undefined;
    return typeof found === 'number' ? [found] : (found as ArrayLike<number> | undefined);
  };

/** The picture of a file, its head looked at. @throws InputError `input.picture`, LimitError `limit.picture` */
async function openTiff(bytes: Uint8Array) {
  const file = await fromArrayBuffer(new Uint8Array(bytes).buffer);
  const image = await file.getImage();
  const [width, height] = [image.getWidth(), image.getHeight()];
  if (!(width > 0 && height > 0)) throw new InputError('picture', 'The picture says that it has no pixels.');
  if (width * height > MOST_PIXELS)
    throw new LimitError('picture', `The picture has ${width} by ${height} pixels; the most is 100 million.`);
  const directory = image.fileDirectory as unknown as Directory;
  const value = valuesOf(directory);
  const samples = image.getSamplesPerPixel();
  const claimed = Math.ceil(width / image.getTileWidth()) * Math.ceil(height / image.getTileHeight());
  const told = countOf(await value(image.isTiled ? 'TileOffsets' : 'StripOffsets'));
  checkClaim({ width, height, samples, claimed, told }, bytes.length);
  // one bit is what the standard takes when nothing is stated; the parser wants it said
  if (!directory.hasTag('BitsPerSample')) directory.actualizedFields.set(BITS_PER_SAMPLE, Uint16Array.of(1));
  return { image, directory, value, width, height, samples, claimed };
}

/** Reads what an open file holds. */
async function pictureOf(bytes: Uint8Array): Promise<TiffPicture> {
  const { image, directory, value, width, height, samples, claimed } = await openTiff(bytes);
  const tag = async (name: string | number, usual: number): Promise<number> => (await value(name))?.[0] ?? usual;
  const kind = await tag('PhotometricInterpretation', 1);
  const turned = await tag(ORIENTATION, 1);
  const stated = resolutionOf([await value('XResolution'), await value('YResolution')], (await value('ResolutionUnit'))?.[0], turned >= 5);
  const compression = await tag('Compression', 1);
  if (FAX_CODINGS.has(compression)) {
    const pixels = await readFax(bytes, { width, height, compression, photometric: kind, claimed }, value);
    return { ...upright(pixels, width, height, turned), ...stated };
  }
  const bits = image.getBitsPerSample(0) || 1;
  const isPlain = AS_THEY_ARE.has(kind);
  const bands = (isPlain ? await image.readRasters({ interleave: true }) : await image.readRGB({ interleave: true })) as unknown as Bands;
  if (kind === BANDS.cmyk) {
    const head = { samples, bits, width, height, turned };
    return { ...(await separated(bands, head, directory, value)), ...stated };
  }
  const data = isPlain ? toRgba(bands, kind, samples, bits, width * height) : toRgba(bands, BANDS.rgb, 3, 8, width * height);
  return { ...upright(data, width, height, turned), ...stated };
}

/**
 * Reads the first picture of a TIFF.
 * @throws InputError `input.picture` for what cannot be read; LimitError `limit.picture`
 * @returns RGBA, top row first; its resolution when it says one, and plates of inks that are no process inks
 */
export async function readTiff(bytes: Uint8Array): Promise<TiffPicture> {
  if (bytes.length > MOST_BYTES) throw new LimitError('picture', 'The picture is larger than 400 MB.');
  try {
    return await pictureOf(bytes);
  } catch (error) {
    if (error instanceof InputError || error instanceof LimitError) throw error;
    throw new InputError('picture', 'This TIFF cannot be read. Save it as PNG or JPEG.');
  }
}
