/** Geometry: outlines of lines and cubic Béziers in mm, y up; see the package README for the conventions. */
export { parsePath, formatPath } from './path.ts';
export {
  area,
  boxesMeet,
  bounds,
  contourArea,
  contourBox,
  contourEnd,
  contourLength,
  contourStart,
  EMPTY_BOX,
  EMPTY_OUTLINE,
  growBox,
  isEmptyBox,
  joinBoxes,
  joinOutlines,
  nodeCount,
  pathLength,
  polygon,
  reverseContour,
} from './outline.ts';
export { flatten, flattenContour, type Polyline } from './flatten.ts';
export {
  about,
  compose,
  determinant,
  IDENTITY,
  invert,
  mapBox,
  mapOutline,
  mapPoint,
  mappedBounds,
  rotation,
  scaling,
  translation,
} from './transform.ts';
export { arcShape, boxShape, outlineOfBox, ovalShape, polygonShape, type CornerKind } from './shapes.ts';
export { isInside, lineDistance, segmentDistance, windingNumber } from './hit.ts';
export {
  at,
  endTangent,
  endX,
  endY,
  evaluate,
  derivative,
  isLine,
  quadraticSpan,
  spanBox,
  spanLength,
  startX,
  startY,
  subSpan,
} from './span.ts';
export { dropOverlap, evenOdd, keepOverlap, knockOut, split, weld } from './weld/weld.ts';
export { offset, type OffsetOptions } from './offset/offset.ts';
export { strokeToShape, type StrokeOptions } from './offset/stroke-to-shape.ts';
export { deviation } from './deviation.ts';
export { nearParts, type NearParts } from './near-parts.ts';
export type { Box, Contour, Control, Matrix, Outline, Point, Span } from '../types/index.ts';
export {
  breakAt,
  closeContour,
  deleteNodes,
  handlesOf,
  insertNode,
  joinEnds,
  moveHandle,
  moveNodes,
  nodeKind,
  nodePlace,
  nodesOf,
  oneSpanFor,
  redrawSpan,
  setNodeKind,
  setSpanKind,
  type NodeAddress,
  type NodeKind,
} from './edit/nodes.ts';
export { fitPoints, type FitOptions } from './edit/fit-points.ts';
export { joinLooseEnds } from './edit/join-loose.ts';
export { nestContours } from './edit/nest-contours.ts';
export { thinOut, type ThinnedOut } from './edit/thin-out.ts';
