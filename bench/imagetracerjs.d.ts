/** What the bench uses of a library without types of its own. */
declare module 'imagetracerjs' {
  interface Picture {
    readonly width: number;
    readonly height: number;
    readonly data: Uint8ClampedArray;
  }
  const ImageTracer: { imagedataToTracedata(picture: Picture, options: Readonly<Record<string, number>>): unknown };
  export default ImageTracer;
}
