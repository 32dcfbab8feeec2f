/** Tracing: pictures to outlines. */
export type { Pixels } from './pixels.ts';
export { cleanPicture, proposeColours, traceImage, type Traced, type TracedLayer, type TraceOptions } from './trace-image.ts';
