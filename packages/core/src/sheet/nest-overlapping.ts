/**
 * A layout whose parts may lie on one another: where they lie, how much each collides with the others, and how much each pair
 * weighs. All of it is kept in the memory of a module of WebAssembly, which does the counting (`kernels/nest-collisions.ts`, with
 * the method): two to two and a half times as many places are tried in the same time as in JavaScript. Whether two collide is the
 * same as `doCollide` tells, to 0.001 mm. Units mm, collisions in mm².
 */
import { NEST_COLLISIONS } from './nest-collisions.wasm.ts';
import type { TurnedSolid } from './nest-solid.ts';

interface Kernel {
  readonly memory: { readonly buffer: ArrayBuffer; grow(pages: number): number };
  layOut(parts: number, from: number): number;
  lookAround(part: number, solid: number, x: number, y: number): void;
  costAt(part: number, solid: number, x: number, y: number, limit: number): number;
  measure(part: number): void;
}

/** What this uses of it: the core is built for no platform, and every one has it. */
declare const WebAssembly: {
  readonly Module: new (bytes: Uint8Array) => object;
  readonly Instance: new (module: object, imports: object) => { readonly exports: unknown };
};

/** Bytes of a page of its memory; it grows by so many pages more than are needed. */
const PAGE = 65_536;
const SPARE_PAGES = 16;
/** What the compiler keeps for itself. */
const BEGIN = 1024;
/** A solid as the kernel reads it, in numbers of four bytes. */
const HEAD = 16;
const FOUR_CIRCLES = 12;
const EIGHT_SIDES = 32;
const BOX = 4;
/** What fills groups of four and of eight lies there: nothing reaches it. */
const FAR_MM = 1e9;

const bytesOf = (hex: string): Uint8Array =>
  Uint8Array.from({ length: hex.length / 2 }, (_, i) => parseInt(hex.slice(2 * i, 2 * i + 2), 16));

const num = (list: ArrayLike<number>, i: number): number => list[i] as number;

/** Four circles side by side: their x, their y, their radii. */
function writeCircles({ circles }: TurnedSolid, into: Float32Array, at: number, fours: number): void {
  for (let k = 0; k < 4 * fours; k++) {
    const to = at + FOUR_CIRCLES * Math.floor(k / 4) + (k % 4);
    const isOne = 3 * k < circles.length;
    into[to] = isOne ? num(circles, 3 * k) : FAR_MM;
    into[to + 4] = isOne ? num(circles, 3 * k + 1) : FAR_MM;
    into[to + 8] = isOne ? num(circles, 3 * k + 2) : 0;
  }
}

/** Eight sides side by side: where they begin, where they end, x before y; and the boxes of each eight. */
function writeSides({ sides }: TurnedSolid, into: Float32Array, at: number, boxesAt: number): void {
  const eights = Math.ceil(sides.length / 32);
  into.fill(FAR_MM, at, at + EIGHT_SIDES * eights);
  for (let g = 0; g < eights; g++) {
    let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let s = 8 * g; s < Math.min(sides.length / 4, 8 * g + 8); s++) {
      const to = at + EIGHT_SIDES * g + (s % 8);
      for (let c = 0; c < 4; c++) into[to + 8 * c] = num(sides, 4 * s + c);
      // of what is written: rounded as it is
      [minX, maxX] = [Math.min(minX, num(into, to), num(into, to + 16)), Math.max(maxX, num(into, to), num(into, to + 16))];
      [minY, maxY] = [Math.min(minY, num(into, to + 8), num(into, to + 24)), Math.max(maxY, num(into, to + 8), num(into, to + 24))];
    }
    into.set([minX, minY, -maxX, -maxY], boxesAt + BOX * g);
  }
}

export class OverlappingLayout {
  private readonly kernel: Kernel;
  private readonly begin: number;
  private free: number;
  private readonly addresses = new Map<TurnedSolid, number>();
  private places = new Float64Array();
  private boxes = new Float64Array();
  private solids = new Int32Array();
  /** Of part i with part j at i × count + j; at least 1. New arrays whenever the memory has grown: not to be kept. */
  weights = new Float64Array();
  /** The same of how much they collide, as it was measured last. */
  collisions = new Float64Array();

  /** Memory: sixteen bytes a pair, and four kilobytes a solid of 150 sides in each of its turns. */
  constructor(readonly count: number) {
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(bytesOf(NEST_COLLISIONS)), {});
    this.kernel = exports as Kernel;
    this.begin = BEGIN;
    this.free = this.kernel.layOut(count, BEGIN);
    this.reach(this.free);
    this.view();
    this.weights.fill(1);
  }

  /** Grows the memory when it ends before. @returns whether it did */
  private reach(end: number): boolean {
    const { memory } = this.kernel;
    const pages = Math.ceil((end - memory.buffer.byteLength) / PAGE);
    if (pages <= 0) return false;
    memory.grow(pages + SPARE_PAGES);
    return true;
  }

  /** As the kernel lays it out. */
  private view(): void {
    const { count, begin } = this;
    const { buffer } = this.kernel.memory;
    let at = begin;
    const doubles = (length: number): Float64Array<ArrayBuffer> => {
      const list = new Float64Array(buffer, at, length);
      at += 8 * length;
      return list;
    };
    this.places = doubles(2 * count);
    this.boxes = doubles(4 * count);
    this.weights = doubles(count * count);
    this.collisions = doubles(count * count);
    this.solids = new Int32Array(buffer, at, count);
  }

  /** Where the kernel has a solid; it is written there when it is first asked for. */
  addressOf(solid: TurnedSolid): number {
    const known = this.addresses.get(solid);
    if (known !== undefined) return known;
    const address = this.free;
    const circles = solid.circles.length / 3;
    const fours = Math.ceil(circles / 4);
    const eights = Math.ceil(solid.sides.length / 32);
    const sidesAt = HEAD + FOUR_CIRCLES * fours;
    const boxesAt = sidesAt + EIGHT_SIDES * eights;
    const roomAt = boxesAt + BOX * eights;
    const ringsAt = roomAt + eights;
    // solids begin at multiples of sixteen bytes
    const end = 4 * Math.ceil((ringsAt + solid.rings.length) / 4);
    if (this.reach(address + 4 * end)) this.view();
    const numbers = new Float32Array(this.kernel.memory.buffer, address, end);
    const wholes = new Int32Array(this.kernel.memory.buffer, address, HEAD);
    const { minX, minY, maxX, maxY, sizeMm, penaltyMm } = solid;
    numbers.set([minX, minY, maxX, maxY, sizeMm, penaltyMm]);
    const begins = [HEAD, sidesAt, boxesAt, roomAt].map((at) => address + 4 * at);
    wholes.set([circles, eights, ...begins, solid.rings.length / 6, address + 4 * ringsAt], 6);
    writeCircles(solid, numbers, HEAD, fours);
    writeSides(solid, numbers, sidesAt, boxesAt);
    numbers.set(solid.rings, ringsAt);
    this.free = address + 4 * end;
    this.addresses.set(solid, address);
    return address;
  }

  /** Lays a part, in one of its turns. */
  put(part: number, solid: TurnedSolid, x: number, y: number): void {
    const address = this.addressOf(solid);
    const { places, boxes, solids } = this;
    solids[part] = address;
    places[2 * part] = x;
    places[2 * part + 1] = y;
    boxes[4 * part] = x + solid.minX;
    boxes[4 * part + 1] = y + solid.minY;
    boxes[4 * part + 2] = x + solid.maxX;
    boxes[4 * part + 3] = y + solid.maxY;
  }

  /** Looks up what a part can meet about a place: costs there are counted more quickly until it is called again, or weights change. */
  lookAround(part: number, solid: number, x: number, y: number): void {
    this.kernel.lookAround(part, solid, x, y);
  }

  /**
   * Weighted collisions of a part in a place; anything from `limit` on is too much.
   * @param solid its address
   */
  costAt(part: number, solid: number, x: number, y: number, limit: number): number {
    return this.kernel.costAt(part, solid, x, y, limit);
  }

  /** Collisions of a part with all others, where they lie. */
  measure(part: number): void {
    this.kernel.measure(part);
  }
}
