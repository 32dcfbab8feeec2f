/** One film flat, as it is cut, over the others as a ghost; what cannot be weeded is ringed. */
import { bounds, growBox, isEmptyBox, joinBoxes, type Box } from '@lorvek/core/geometry';
import { filmOf, pageOf, type Drawing } from '@lorvek/model';
import { useMemo } from 'react';
import { pathOf, viewMatrix } from '../../drawing/paint.ts';
import { contrast } from '../../drawing/paint-sheet.ts';
import { fitBox, useView, type View } from '../../drawing/view.ts';
import { Viewport } from '../../drawing/viewport.tsx';
import type { BuildAnswer } from '@lorvek/computations';
import { useBuild } from './build-store.ts';

export function fitBuild(): void {
  const { answer } = useBuild.getState();
  if (answer) fitBox('build', joinBoxes(answer.box, bounds(answer.marks)), 40);
}

const RING_PX = 9;

type Finding = BuildAnswer['layers'][number]['findings'][number];
type Size = { readonly width: number; readonly height: number };

/** Rings what cannot be weeded. @param reach round it, mm */
function ring(context: CanvasRenderingContext2D, { box, place }: Finding, reach: number): void {
  const around: Box | undefined = box ?? (place && { minX: place.x, minY: place.y, maxX: place.x, maxY: place.y });
  if (!around || isEmptyBox(around)) return;
  const { minX, minY, maxX, maxY } = growBox(around, reach);
  context.beginPath();
  context.ellipse((minX + maxX) / 2, (minY + maxY) / 2, (maxX - minX) / 2, (maxY - minY) / 2, 0, 0, 2 * Math.PI);
  context.stroke();
}

interface FlatFilm {
  readonly id: string;
  readonly hex: string;
  readonly path: Path2D;
  readonly findings: readonly Finding[];
}

interface Flat {
  readonly paths: readonly FlatFilm[];
  readonly shown: string | undefined;
  /** Colour of the surface. */
  readonly ground: string;
}

/** The shown film full, the others as lines under it. */
function paintFilms(context: CanvasRenderingContext2D, view: View, size: Size, { paths, shown, ground }: Flat): void {
  context.fillStyle = ground;
  context.fillRect(0, 0, size.width, size.height);
  context.save();
  context.transform(...(viewMatrix(view) as [number, number, number, number, number, number]));
  const px = 1 / view.scale;
  context.lineWidth = px;
  for (const { id, path } of paths) {
    if (id === shown) continue;
    context.strokeStyle = contrast(ground, 0.22);
    context.stroke(path);
  }
  const own = paths.find(({ id }) => id === shown);
  if (own) {
    context.fillStyle = own.hex;
    context.fill(own.path, 'nonzero');
    context.strokeStyle = contrast(own.hex, 0.6);
    context.stroke(own.path);
    context.strokeStyle = '#b3620b';
    context.lineWidth = 2 * px;
    for (const finding of own.findings) ring(context, finding, RING_PX * px);
  }
  context.restore();
}

export function FlatView({ drawing, answer, film: shown }: { drawing: Drawing; answer: BuildAnswer; film: string | undefined }) {
  const flash = useView((state) => state.flash);
  const paths = useMemo(
    () =>
      answer.layers.map(({ film: id, outline, findings }) => {
        const film = filmOf(drawing, id);
        const all = { contours: [...outline.contours, ...(film?.placeMarks ? answer.marks.contours : [])] };
        return { id, hex: film?.hex ?? '#888888', path: pathOf(all), findings };
      }),
    [answer, drawing],
  );
  const { unit, surface } = pageOf(drawing);
  return (
    <Viewport
      name="build"
      unit={unit}
      label="The film as it is cut"
      deps={[paths, shown, flash]}
      onFirstSize={fitBuild}
      paint={(context, view, size) => {
        paintFilms(context, view, size, { paths, shown, ground: surface.hex });
      }}
    />
  );
}
