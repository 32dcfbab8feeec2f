/** Over the original: clicks that name a colour or lift the ground, strokes of the brush, corners, the crop, lit pixels. */
import { labDifference, labOf, rgbOf } from '@lorvek/core/colour';
import type { PictureItem } from '@lorvek/model';
import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { colourAt, usePicking, type Picking } from './picking.ts';
import { retouchOf, setRetouch, settingsOf, USUAL_LIFT } from './retouch-settings.ts';
import { setTrace, useTracing } from './trace-store.ts';

interface Place {
  readonly x: number;
  readonly y: number;
}

/** Pixels that a colour would reach, lit up. */
function Lit({ image }: { image: HTMLImageElement | null }) {
  // without a reach of its own a colour takes what is nearest to it: nothing to light up
  const looked = usePicking((state) => (state.looked && state.looked.reach > 0 ? state.looked : undefined));
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const target = canvas.current;
    if (!target || !image || !looked || image.naturalWidth === 0) return;
    const k = Math.min(1, 500 / Math.max(image.naturalWidth, image.naturalHeight));
    [target.width, target.height] = [Math.round(image.naturalWidth * k), Math.round(image.naturalHeight * k)];
    const context = target.getContext('2d', { willReadFrequently: true });
    if (!context) return;
    context.drawImage(image, 0, 0, target.width, target.height);
    const pixels = context.getImageData(0, 0, target.width, target.height);
    const own = labOf(rgbOf(looked.hex));
    const known = new Map<number, boolean>();
    const { data } = pixels;
    for (let i = 0; i < data.length; i += 4) {
      const rgb = [data[i] ?? 0, data[i + 1] ?? 0, data[i + 2] ?? 0] as const;
      const key = (rgb[0] << 16) | (rgb[1] << 8) | rgb[2];
      let isIn = known.get(key);
      if (isIn === undefined) known.set(key, (isIn = labDifference(labOf(rgb), own) <= looked.reach));
      data.set(isIn ? [255, 0, 170, 255] : [0, 0, 0, 150], i);
    }
    context.putImageData(pixels, 0, 0);
  }, [image, looked]);
  return looked ? (
    <canvas ref={canvas} className="pointer-events-none absolute inset-0 h-full w-full" aria-label="Pixels within reach" />
  ) : null;
}

const path = (points: readonly Place[]): string => points.map(({ x, y }, i) => `${i === 0 ? 'M' : 'L'}${x * 1000} ${y * 1000}`).join('');

interface MarksProps {
  readonly picking: Picking;
  readonly line: readonly Place[];
  readonly corners: readonly Place[];
  readonly brush: number;
}

/** What is being drawn at the moment. */
function Marks({ picking, line, corners, brush }: MarksProps) {
  const [from, to] = [line[0], line.at(-1)];
  const box =
    picking === 'crop' && from && to
      ? { x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), w: Math.abs(to.x - from.x), h: Math.abs(to.y - from.y) }
      : undefined;
  return (
    <svg viewBox="0 0 1000 1000" preserveAspectRatio="none" className="absolute inset-0 h-full w-full">
      {box ? (
        <rect
          x={box.x * 1000}
          y={box.y * 1000}
          width={box.w * 1000}
          height={box.h * 1000}
          fill="#0d5c5f33"
          stroke="#0d5c5f"
          vectorEffect="non-scaling-stroke"
        />
      ) : null}
      {picking === 'keep' || picking === 'take' ? (
        <path
          d={path(line)}
          fill="none"
          stroke={picking === 'keep' ? '#0d5c5f' : '#9c3b2e'}
          strokeWidth={brush * 2000}
          strokeLinecap="round"
          strokeLinejoin="round"
          opacity={0.5}
        />
      ) : null}
      {corners.length > 0 ? (
        <path d={path(corners)} fill="none" stroke="#0d5c5f" strokeWidth={2} vectorEffect="non-scaling-stroke" />
      ) : null}
    </svg>
  );
}

/** A press on the picture, by what is being picked: a spot of the ground, a colour, a corner. */
function clicked(picture: PictureItem, image: HTMLImageElement | null, p: Place): void {
  const { picking, corners } = usePicking.getState();
  const settings = settingsOf(picture);
  const retouch = retouchOf(picture);
  const lift = retouch.lift ?? USUAL_LIFT;
  const hex = image ? colourAt(image, p.x, p.y) : '#000000';
  if (picking === 'lift') setRetouch(picture, { lift: { ...lift, spots: [...lift.spots, p] } });
  else if (picking === 'clear') setRetouch(picture, { clear: { hex, reach: retouch.clear?.reach ?? 10 } });
  else if (picking === 'name') {
    const { answer, seen } = useTracing.getState();
    const known = settings.named?.length ? settings.named : [...seen, ...(answer?.ground ? [answer.ground] : [])];
    setTrace(picture, { named: [...new Set([...known, hex])].slice(0, 64) });
  } else if (picking === 'corners') {
    const next = [...corners, p];
    if (next.length < 4) usePicking.setState({ corners: next });
    else {
      setRetouch(picture, { corners: next });
      usePicking.setState({ corners: [], picking: 'none' });
    }
  }
}

/** A rectangle that crops, as shares of the picture; one that is next to nothing crops nothing. */
function cropOf(first: Place, last: Place): { x0: number; y0: number; x1: number; y1: number } | undefined {
  const clamp = (v: number): number => Math.min(1, Math.max(0, v));
  const [x0, x1] = [clamp(Math.min(first.x, last.x)), clamp(Math.max(first.x, last.x))];
  const [y0, y1] = [clamp(Math.min(first.y, last.y)), clamp(Math.max(first.y, last.y))];
  return x1 - x0 > 0.01 && y1 - y0 > 0.01 ? { x0, y0, x1, y1 } : undefined;
}

/** A stroke over the picture: what is cropped to, or what of the ground is kept or taken. */
function stroked(picture: PictureItem, points: readonly Place[]): void {
  const { picking, brush } = usePicking.getState();
  const [first, last] = [points[0], points.at(-1)];
  if (!first || !last) return;
  if (picking === 'crop') {
    const crop = cropOf(first, last);
    if (crop) setRetouch(picture, { crop });
    usePicking.setState({ picking: 'none' });
    return;
  }
  const lift = retouchOf(picture).lift ?? USUAL_LIFT;
  const stroke = { keeps: picking === 'keep', radius: brush, points: [...points] };
  setRetouch(picture, { lift: { ...lift, strokes: [...lift.strokes, stroke] } });
}

/** Where the pointer is, as shares of the picture. */
function placeOf(event: PointerEvent): Place {
  const box = event.currentTarget.getBoundingClientRect();
  return { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
}

export function PickLayer({ picture, image }: { picture: PictureItem; image: HTMLImageElement | null }) {
  const { picking, brush, corners } = usePicking();
  const [line, setLine] = useState<readonly Place[]>([]);
  const isStroke = picking === 'keep' || picking === 'take' || picking === 'crop';
  return (
    <>
      <Lit image={image} />
      {picking === 'none' ? null : (
        <div
          className="absolute inset-0 cursor-crosshair touch-none"
          data-testid="pick-layer"
          onPointerDown={(event) => {
            event.stopPropagation();
            event.currentTarget.setPointerCapture(event.pointerId);
            if (isStroke) setLine([placeOf(event)]);
            else clicked(picture, image, placeOf(event));
          }}
          onPointerMove={(event) => {
            if (line.length > 0) setLine([...line, placeOf(event)].slice(-2000));
          }}
          onPointerUp={() => {
            if (line.length > 0) stroked(picture, line);
            setLine([]);
          }}
        >
          <Marks picking={picking} line={line} corners={corners} brush={brush} />
        </div>
      )}
    </>
  );
}
