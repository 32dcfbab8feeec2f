/** Tracing: pictures to outlines. */
export { TraceMemory } from './memory.ts';
export type { OwnSize } from './own-size.ts';
export type { Pixels } from './pixels.ts';
export { enlargementFor, retouch, type Retouch, type Retouched, type Spot, type Stroke } from './retouch.ts';
export type { Threshold } from './single.ts';
export {
  cleanPicture,
  ownSizeOf,
  proposeColours,
  silhouette,
  traceImage,
  type SilhouetteOptions,
  type Traced,
  type TracedLayer,
  type TraceOptions,
} from './trace-image.ts';
