/**
 * Collisions of an overlapping layout: how much a part collides with all others in a place. The innermost loop of nesting, in
 * AssemblyScript: four circles or four sides are taken with one instruction (WebAssembly SIMD, 128 bits). What it is for, and
 * how the memory is filled, is in `src/sheet/nest-overlapping.ts`; `npm run kernels` compiles it into a module beside that.
 *
 * Whether two collide: they do when circles of theirs meet, when sides of theirs cross, or when a piece of one lies in the
 * other. How much is told by their circles alone, by how deep each pair lies in one another, with a decaying tail for pairs that do not, so
 * that it falls evenly as the parts go apart (penetration by circles after T. Imamichi, H. Nagamochi, A multi-sphere scheme
 * for 2D and 3D packing problems, 2007).
 *
 * Units mm, mm². Places are kept in double precision; one part as seen from another in single: off by less than 0.001 mm at 10 m.
 */

/** Less is touching, mm. */
const SAME_MM: f32 = 1e-7;
/**
 * Sides are looked at as if the other part lay so far from its place, mm: those that lie in one line would not cross, however much
 * ground their parts share (a real hair instead of a symbolic one: H. Edelsbrunner, E. Mücke, Simulation of simplicity, 1990).
 */
const HAIR_X: f32 = 1.3e-4;
const HAIR_Y: f32 = 0.7e-4;
/** Pairs of circles that do not meet count for less the farther they are, from this share of the larger part's size on. */
const TAIL_SHARE: f32 = 0.01;
/** Those that are so many tails apart count for nothing. */
const FAR_TAILS: f32 = 20;
/** Around a place by so much of its size a part is stepped: what it can meet there is looked up once. */
const AROUND_SHARE: f64 = 0.5;

/**
 * A solid at its address: its box (minX, minY, maxX, maxY), size and penalty in single precision; how many circles, boxes and rings
 * it has, and where its circles, its sides, its boxes, room for a number a box, and its rings begin.
 */
const MIN_X = 0;
const MIN_Y = 4;
const MAX_X = 8;
const MAX_Y = 12;
const SIZE = 16;
const PENALTY = 20;
const CIRCLES = 24;
const BOXES = 28;
const CIRCLES_AT = 32;
const SIDES_AT = 36;
const BOXES_AT = 40;
const ROOM_AT = 44;
const RINGS = 48;
const RINGS_AT = 52;
/** Four circles: their x, their y, their radii. */
const FOUR_CIRCLES = 48;
/** Eight sides: the x and the y of where they begin, the x and the y of where they end. What is left over lies far away. */
const EIGHT_SIDES = 128;
const BEGIN_Y = 32;
const END_X = 64;
const END_Y = 96;
/** The box of eight sides: minX, minY, -maxX, -maxY, so that one comparison tells whether two meet. */
const BOX = 16;
/** A ring: a point on it, and its box. */
const RING = 24;

let parts: i32 = 0;
let placesAt: usize = 0;
let boxesAt: usize = 0;
let weightsAt: usize = 0;
let collisionsAt: usize = 0;
let solidsAt: usize = 0;
let nearAt: usize = 0;
let unsureAt: usize = 0;
let crossedAt: usize = 0;

/** Parts that a part can meet while its box stays within this room, by their numbers; an empty room holds nothing. */
let nearCount: i32 = 0;
let roomMinX: f64 = 0;
let roomMinY: f64 = 0;
let roomMaxX: f64 = -1;
let roomMaxY: f64 = -1;

/**
 * Lays out the memory for so many parts from an address on, a multiple of sixteen. One after another: places (x, y), boxes (minX,
 * minY, maxX, maxY), weights and collisions of pairs, all in double precision; addresses of solids; what this keeps for itself.
 * @returns where solids may begin
 */
export function layOut(count: i32, from: usize): usize {
  const n = <usize>count;
  parts = count;
  placesAt = from;
  boxesAt = placesAt + 16 * n;
  weightsAt = boxesAt + 32 * n;
  collisionsAt = weightsAt + 8 * n * n;
  solidsAt = collisionsAt + 8 * n * n;
  nearAt = solidsAt + 4 * n;
  unsureAt = nearAt + 4 * n;
  crossedAt = unsureAt + 4 * n;
  return (crossedAt + 8 * n + 15) & ~15;
}

function number(at: usize): f32 {
  return load<f32>(at);
}

function four(at: usize): v128 {
  return v128.load(at);
}

function whole(at: usize): i32 {
  return load<i32>(at);
}

function address(at: usize): usize {
  return <usize>load<u32>(at);
}

/** Where the k-th circle of those at an address is: x, and 16 and 32 bytes on y and radius. */
function circle(circlesAt: usize, k: i32): usize {
  return circlesAt + <usize>(k >> 2) * FOUR_CIRCLES + <usize>((k & 3) << 2);
}

/** Do circles of two solids meet? The second lies at dx, dy of the first. */
function circlesMeet(a: usize, b: usize, dx: f32, dy: f32): bool {
  const ours = address(a + CIRCLES_AT);
  const theirs = address(b + CIRCLES_AT);
  const count = whole(a + CIRCLES);
  const fours = (whole(b + CIRCLES) + 3) >> 2;
  for (let k = 0; k < count; k++) {
    const at = circle(ours, k);
    const x = number(at) - dx;
    const y = number(at + 16) - dy;
    const r = number(at + 32) - SAME_MM;
    if (x + r < number(b + MIN_X) || x - r > number(b + MAX_X) || y + r < number(b + MIN_Y) || y - r > number(b + MAX_Y)) continue;
    for (let g = 0; g < fours; g++) {
      const group = theirs + <usize>g * FOUR_CIRCLES;
      const apartX = f32x4.sub(four(group), f32x4.splat(x));
      const apartY = f32x4.sub(four(group + 16), f32x4.splat(y));
      const reach = f32x4.add(four(group + 32), f32x4.splat(r));
      const square = f32x4.add(f32x4.mul(apartX, apartX), f32x4.mul(apartY, apartY));
      if (v128.any_true(f32x4.lt(square, f32x4.mul(reach, reach)))) return true;
    }
  }
  return false;
}

/** How much two solids collide that do, mm²; Infinity when that is more than `limit`. */
function depth(a: usize, b: usize, dx: f32, dy: f32, limit: f64): f64 {
  const penalty = <f64>number(a + PENALTY) * <f64>number(b + PENALTY);
  const root = limit / penalty;
  const most = <f32>(root * root);
  const tail = TAIL_SHARE * max(number(a + SIZE), number(b + SIZE));
  const far = FAR_TAILS * tail;
  const minX = number(b + MIN_X) - far;
  const minY = number(b + MIN_Y) - far;
  const maxX = number(b + MAX_X) + far;
  const maxY = number(b + MAX_Y) + far;
  const ours = address(a + CIRCLES_AT);
  const theirs = address(b + CIRCLES_AT);
  const count = whole(a + CIRCLES);
  const fours = (whole(b + CIRCLES) + 3) >> 2;
  let sum = tail * tail;
  for (let k = 0; k < count; k++) {
    const at = circle(ours, k);
    const x = number(at) - dx;
    const y = number(at + 16) - dy;
    const r = number(at + 32);
    if (x + r < minX || x - r > maxX || y + r < minY || y - r > maxY) continue;
    let sums = f32x4.splat(0);
    for (let g = 0; g < fours; g++) {
      const group = theirs + <usize>g * FOUR_CIRCLES;
      const apartX = f32x4.sub(four(group), f32x4.splat(x));
      const apartY = f32x4.sub(four(group + 16), f32x4.splat(y));
      const radius = four(group + 32);
      const square = f32x4.add(f32x4.mul(apartX, apartX), f32x4.mul(apartY, apartY));
      const beyond = f32x4.add(radius, f32x4.splat(r + far));
      const isNear = f32x4.le(square, f32x4.mul(beyond, beyond));
      if (!v128.any_true(isNear)) continue;
      const deep = f32x4.sub(f32x4.add(radius, f32x4.splat(r)), f32x4.sqrt(square));
      const decaying = f32x4.div(f32x4.splat(tail * tail), f32x4.sub(f32x4.splat(2 * tail), deep));
      const own = v128.bitselect(deep, decaying, f32x4.ge(deep, f32x4.splat(tail)));
      sums = f32x4.add(sums, v128.and(f32x4.mul(own, f32x4.pmin(radius, f32x4.splat(r))), isNear));
    }
    sum += f32x4.extract_lane(sums, 0) + f32x4.extract_lane(sums, 1) + f32x4.extract_lane(sums, 2) + f32x4.extract_lane(sums, 3);
    if (sum > most) return Infinity;
  }
  return <f64>sqrt(sum) * penalty;
}

/** Do eight sides and other eight cross? The second lie in the box, at dx, dy. */
function eightCross(ours: usize, theirs: usize, box: usize, dx: f32, dy: f32): bool {
  const minX = number(box) + dx;
  const minY = number(box + 4) + dy;
  const maxX = dx - number(box + 8);
  const maxY = dy - number(box + 12);
  const none = f32x4.splat(0);
  for (let s: usize = 0; s < 32; s += 4) {
    const ax = number(ours + s);
    const ay = number(ours + s + BEGIN_Y);
    const bx = number(ours + s + END_X);
    const by = number(ours + s + END_Y);
    if (ax < minX ? bx < minX : ax > maxX && bx > maxX) continue;
    if (ay < minY ? by < minY : ay > maxY && by > maxY) continue;
    const ux = f32x4.splat(bx - ax);
    const uy = f32x4.splat(by - ay);
    const fromX = f32x4.splat(dx - ax);
    const fromY = f32x4.splat(dy - ay);
    for (let t: usize = 0; t < 32; t += 16) {
      const px = f32x4.add(four(theirs + t), fromX);
      const py = f32x4.add(four(theirs + t + BEGIN_Y), fromY);
      const qx = f32x4.add(four(theirs + t + END_X), fromX);
      const qy = f32x4.add(four(theirs + t + END_Y), fromY);
      const p = f32x4.sub(f32x4.mul(ux, py), f32x4.mul(uy, px));
      const q = f32x4.sub(f32x4.mul(ux, qy), f32x4.mul(uy, qx));
      // one end within ours, to the left of it, one on it or without: where a corner lies on a side that is not passed over
      const isAcross = v128.xor(f32x4.gt(p, none), f32x4.gt(q, none));
      if (!v128.any_true(isAcross)) continue;
      const vx = f32x4.sub(qx, px);
      const vy = f32x4.sub(qy, py);
      const begin = f32x4.sub(f32x4.mul(vy, px), f32x4.mul(vx, py));
      const end = f32x4.sub(f32x4.mul(vx, f32x4.sub(uy, py)), f32x4.mul(vy, f32x4.sub(ux, px)));
      if (v128.any_true(v128.and(isAcross, v128.xor(f32x4.gt(begin, none), f32x4.gt(end, none))))) return true;
    }
  }
  return false;
}

/** Do sides of two solids cross? Those that did last time are looked at first. @param crossed where it is kept which did */
function sidesCross(a: usize, b: usize, dx: f32, dy: f32, crossed: usize): bool {
  const ourCount = whole(a + BOXES);
  const theirCount = whole(b + BOXES);
  const ourBoxes = address(a + BOXES_AT);
  const theirBoxes = address(b + BOXES_AT);
  const ours = address(a + SIDES_AT);
  const theirs = address(b + SIDES_AT);
  const lastOfOurs = whole(crossed);
  const lastOfTheirs = whole(crossed + 4);
  if (lastOfOurs < ourCount && lastOfTheirs < theirCount) {
    const sides = theirs + <usize>lastOfTheirs * EIGHT_SIDES;
    if (eightCross(ours + <usize>lastOfOurs * EIGHT_SIDES, sides, theirBoxes + <usize>lastOfTheirs * BOX, dx, dy)) return true;
  }
  // their boxes that lie where the first is
  const within = address(b + ROOM_AT);
  const all = f32x4(number(a + MAX_X) - dx, number(a + MAX_Y) - dy, dx - number(a + MIN_X), dy - number(a + MIN_Y));
  let count = 0;
  for (let h = 0; h < theirCount; h++)
    if (i32x4.all_true(f32x4.le(four(theirBoxes + <usize>h * BOX), all))) store<i32>(within + <usize>(count++ << 2), h);
  for (let g = 0; count > 0 && g < ourCount; g++) {
    const at = ourBoxes + <usize>g * BOX;
    const minX = number(at) - dx;
    const minY = number(at + 4) - dy;
    const maxX = -number(at + 8) - dx;
    const maxY = -number(at + 12) - dy;
    if (maxX < number(b + MIN_X) || minX > number(b + MAX_X) || maxY < number(b + MIN_Y) || minY > number(b + MAX_Y)) continue;
    const own = f32x4(maxX, maxY, -minX, -minY);
    for (let k = 0; k < count; k++) {
      const h = whole(within + <usize>(k << 2));
      const box = theirBoxes + <usize>h * BOX;
      if (!i32x4.all_true(f32x4.le(four(box), own))) continue;
      if (!eightCross(ours + <usize>g * EIGHT_SIDES, theirs + <usize>h * EIGHT_SIDES, box, dx, dy)) continue;
      store<i32>(crossed, g);
      store<i32>(crossed + 4, h);
      return true;
    }
  }
  return false;
}

/** Does a point lie within (even-odd)? */
function holds(solid: usize, x: f32, y: f32): bool {
  const count = whole(solid + BOXES);
  const sides = address(solid + SIDES_AT);
  let isIn = false;
  for (let g = 0; g < count; g++) {
    const group = sides + <usize>g * EIGHT_SIDES;
    for (let s: usize = 0; s < 32; s += 4) {
      const beginY = number(group + s + BEGIN_Y);
      const endY = number(group + s + END_Y);
      if (beginY > y === endY > y) continue;
      const beginX = number(group + s);
      if (x < beginX + ((y - beginY) / (endY - beginY)) * (number(group + s + END_X) - beginX)) isIn = !isIn;
    }
  }
  return isIn;
}

/** Does a ring of the second lie wholly in the first, when no sides cross? */
function holdsRing(a: usize, b: usize, dx: f32, dy: f32): bool {
  const count = whole(b + RINGS);
  for (let r = 0; r < count; r++) {
    const ring = address(b + RINGS_AT) + <usize>r * RING;
    if (number(ring + 8) + dx < number(a + MIN_X) || number(ring + 16) + dx > number(a + MAX_X)) continue;
    if (number(ring + 12) + dy < number(a + MIN_Y) || number(ring + 20) + dy > number(a + MAX_Y)) continue;
    if (holds(a, number(ring) + dx, number(ring + 4) + dy)) return true;
  }
  return false;
}

/** Do two solids collide whose circles do not meet? */
function doSidesCollide(a: usize, b: usize, seenDx: f32, seenDy: f32, crossed: usize): bool {
  const dx = seenDx + HAIR_X;
  const dy = seenDy + HAIR_Y;
  return sidesCross(a, b, dx, dy, crossed) || holdsRing(a, b, dx, dy) || holdsRing(b, a, -dx, -dy);
}

/** Does the box of the j-th part meet another one, given by its corners? */
function isBoxMet(j: i32, from: v128, to: v128): bool {
  const box = boxesAt + <usize>(j << 5);
  return i64x2.all_true(v128.and(f64x2.lt(four(box), to), f64x2.gt(four(box + 16), from)));
}

function solidOf(j: i32): usize {
  return address(solidsAt + <usize>(j << 2));
}

/** Where the j-th part lies, as seen from a place. */
function seenX(j: i32, x: f64): f32 {
  return <f32>(load<f64>(placesAt + <usize>(j << 4)) - x);
}

function seenY(j: i32, y: f64): f32 {
  return <f32>(load<f64>(placesAt + <usize>(j << 4) + 8) - y);
}

function weightOf(row: usize, j: i32): f64 {
  return load<f64>(row + <usize>(j << 3));
}

/**
 * Looks up what the i-th part, as a solid, can meet about a place, those first that weigh most: collisions that are too much are so
 * found early. For all places at which its box lies within the room.
 */
export function lookAround(i: i32, solid: usize, x: f64, y: f64): void {
  const margin = AROUND_SHARE * <f64>number(solid + SIZE);
  roomMinX = x + <f64>number(solid + MIN_X) - margin;
  roomMinY = y + <f64>number(solid + MIN_Y) - margin;
  roomMaxX = x + <f64>number(solid + MAX_X) + margin;
  roomMaxY = y + <f64>number(solid + MAX_Y) + margin;
  const from = f64x2(roomMinX, roomMinY);
  const to = f64x2(roomMaxX, roomMaxY);
  const row = weightsAt + 8 * <usize>(i * parts);
  let count = 0;
  for (let j = 0; j < parts; j++) {
    if (j === i || !isBoxMet(j, from, to)) continue;
    const weight = weightOf(row, j);
    let k = count++;
    for (; k > 0; k--) {
      const before = whole(nearAt + <usize>((k - 1) << 2));
      if (weightOf(row, before) >= weight) break;
      store<i32>(nearAt + <usize>(k << 2), before);
    }
    store<i32>(nearAt + <usize>(k << 2), j);
  }
  nearCount = count;
}

/** Weighted collisions of the i-th part, as a solid, in a place, mm²; anything above `limit` is too much. */
export function costAt(i: i32, solid: usize, x: f64, y: f64, limit: f64): f64 {
  const fromX = x + <f64>number(solid + MIN_X);
  const fromY = y + <f64>number(solid + MIN_Y);
  const toX = x + <f64>number(solid + MAX_X);
  const toY = y + <f64>number(solid + MAX_Y);
  const from = f64x2(fromX, fromY);
  const to = f64x2(toX, toY);
  const isNear = fromX >= roomMinX && toX <= roomMaxX && fromY >= roomMinY && toY <= roomMaxY;
  const count = isNear ? nearCount : parts;
  const row = weightsAt + 8 * <usize>(i * parts);
  let cost: f64 = 0;
  let unsure = 0;
  // what is told by circles is looked at before what has to be told by sides: it is often enough
  for (let k = 0; k < count; k++) {
    const j = isNear ? whole(nearAt + <usize>(k << 2)) : k;
    if (j === i || !isBoxMet(j, from, to)) continue;
    const other = solidOf(j);
    const dx = seenX(j, x);
    const dy = seenY(j, y);
    if (!circlesMeet(solid, other, dx, dy)) {
      store<i32>(unsureAt + <usize>(unsure++ << 2), j);
      continue;
    }
    const weight = weightOf(row, j);
    cost += depth(solid, other, dx, dy, (limit - cost) / weight) * weight;
    if (cost >= limit) return cost;
  }
  for (let k = 0; k < unsure; k++) {
    const j = whole(unsureAt + <usize>(k << 2));
    const other = solidOf(j);
    const dx = seenX(j, x);
    const dy = seenY(j, y);
    if (!doSidesCollide(solid, other, dx, dy, crossedAt + <usize>(j << 3))) continue;
    const weight = weightOf(row, j);
    cost += depth(solid, other, dx, dy, (limit - cost) / weight) * weight;
    if (cost >= limit) return cost;
  }
  return cost;
}

/** Collisions of the i-th part with all others where they lie, kept by pairs. */
export function measure(i: i32): void {
  const solid = solidOf(i);
  const box = boxesAt + <usize>(i << 5);
  const from = four(box);
  const to = four(box + 16);
  const x = load<f64>(placesAt + <usize>(i << 4));
  const y = load<f64>(placesAt + <usize>(i << 4) + 8);
  for (let j = 0; j < parts; j++) {
    if (j === i) continue;
    let own: f64 = 0;
    if (isBoxMet(j, from, to)) {
      const other = solidOf(j);
      const dx = seenX(j, x);
      const dy = seenY(j, y);
      const doCollide = circlesMeet(solid, other, dx, dy) || doSidesCollide(solid, other, dx, dy, crossedAt + <usize>(j << 3));
      if (doCollide) own = depth(solid, other, dx, dy, Infinity);
    }
    store<f64>(collisionsAt + 8 * <usize>(i * parts + j), own);
    store<f64>(collisionsAt + 8 * <usize>(j * parts + i), own);
  }
}
