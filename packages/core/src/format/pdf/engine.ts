/**
 * The PDF parser (pdf.js) as this reader uses it: its list of drawing operations, run in the same thread, with nothing
 * fetched and nothing compiled. Only what is used of it is described here.
 */
import type { Matrix } from '../../types/index.ts';

/** What a page does, operator by operator. */
export interface OperatorList {
  readonly fnArray: readonly number[];
  readonly argsArray: readonly (readonly unknown[] | null)[];
}

/** A character as a page sets it. */
export interface PdfGlyph {
  readonly unicode: string;
  readonly fontChar: string;
  readonly width: number;
  readonly isSpace: boolean;
  readonly isInFont: boolean;
  readonly operatorListId?: string;
  readonly vmetric?: readonly number[];
  readonly accent?: { readonly fontChar: string; readonly offset: { readonly x: number; readonly y: number } };
}

/** A font of the file. */
export interface PdfFont {
  readonly loadedName: string;
  readonly name?: string;
  readonly missingFile?: boolean;
  readonly vertical?: boolean;
  readonly isType3Font?: boolean;
  readonly fontMatrix?: Matrix;
  readonly defaultVMetrics?: readonly number[];
  readonly charProcOperatorList?: Readonly<Record<string, OperatorList>>;
}

/** A picture of the file as pixels. */
export interface PdfPicture {
  readonly width: number;
  readonly height: number;
  /** 1: one bit grey, 2: RGB, 3: RGBA. */
  readonly kind: number;
  readonly data?: Uint8Array | Uint8ClampedArray;
}

interface Objects {
  get(id: string, found?: (value: unknown) => void): unknown;
  has(id: string): boolean;
}

/** A page as the engine hands it over. */
export interface PdfPage {
  /** What is shown of the page: left, lower, right, upper in its units. */
  readonly view: readonly [number, number, number, number];
  readonly userUnit: number;
  readonly rotate: number;
  readonly objs: Objects;
  readonly commonObjs: Objects;
  getOperatorList(options: { intent: string; annotationMode: number }): Promise<OperatorList>;
}

/** Layers of a file that can be shown and hidden. */
export interface PdfLayers {
  isVisible(group: unknown): boolean;
  getGroup(id: string): { readonly name?: string } | null;
}

/** An opened file. */
export interface PdfDocument {
  readonly numPages: number;
  getPage(number: number): Promise<PdfPage>;
  getOptionalContentConfig(): Promise<PdfLayers>;
}

interface Engine {
  readonly OPS: Readonly<Record<string, number>>;
  getDocument(options: Record<string, unknown>): { readonly promise: Promise<PdfDocument>; destroy(): Promise<void> };
}

async function load(): Promise<Engine> {
  const scope = globalThis as Record<string, unknown>;
  // with half-precision arrays the parser would hand out letters that are a two-thousandth of their size off
  scope.Float16Array = undefined;
  // handed over like this, the parser's own worker runs here instead of being fetched
  scope.pdfjsWorker = await import('pdfjs-dist/legacy/build/pdf.worker.mjs' as string);
  return (await import('pdfjs-dist/legacy/build/pdf.mjs' as string)) as Engine;
}

/**
 * Loads the parser when it is first needed; modules are kept by the platform.
 * @returns the parser, and its numbers of operations by name
 */
export const loadEngine = (): Promise<Engine> => load();

/**
 * Waits for an object that the parser still works on; undefined when it does not come.
 * @param id as the list of operations names it
 */
export function objectOf(objects: Objects, id: string): Promise<unknown> {
  return new Promise((resolve) => {
    if (objects.has(id)) resolve(objects.get(id));
    else objects.get(id, resolve);
  });
}
