/** The films pulled apart over the surface, in light perspective: bottom film lowest, the one under the pointer lit. */
import { growBox, isEmptyBox, type Box, type Outline } from '@lorvek/core/geometry';
import { filmOf, isLeftOut, type Drawing, type Surface } from '@lorvek/model';
import { Slider } from 'radix-ui';
import { useLayoutEffect, useMemo, useRef, type PointerEvent } from 'react';
import { pathOf } from '../../drawing/paint.ts';
import { contrast } from '../../drawing/paint-sheet.ts';
import type { BuildAnswer } from '@lorvek/computations';
import { useSizeOf } from '../../ui/use-size.ts';
import { light, useBuild } from './build-store.ts';
import { namePlaces, stackMaps, type Affine } from './stack-maps.ts';

interface Plane {
  readonly film: string;
  readonly name: string;
  readonly hex: string;
  readonly outline: Outline;
  readonly path: Path2D;
  readonly leftOut: boolean;
}

function planesOf(drawing: Drawing, answer: BuildAnswer): Plane[] {
  return answer.layers.flatMap(({ film: id, outline, drawn }): Plane[] => {
    const film = filmOf(drawing, id);
    if (!film || drawn.contours.length === 0) return [];
    const leftOut = isLeftOut(film);
    const shown = leftOut ? drawn : { contours: [...outline.contours, ...(film.placeMarks ? answer.marks.contours : [])] };
    return [{ film: id, name: film.name, hex: film.hex, outline: shown, path: pathOf(shown), leftOut }];
  });
}

function paintStack(
  context: CanvasRenderingContext2D,
  ratio: number,
  planes: readonly Plane[],
  maps: readonly Affine[],
  { surface, ground, lit }: { surface: Surface; ground: Box; lit: string | undefined },
): void {
  const under = (map: Affine): void => context.setTransform(new DOMMatrix(map.map((n) => n * ratio) as Affine));
  const [base] = maps;
  if (!base) return;
  context.lineJoin = 'round';
  under(base);
  context.fillStyle = surface.hex;
  context.fillRect(ground.minX, ground.minY, ground.maxX - ground.minX, ground.maxY - ground.minY);
  context.lineWidth = 1 / base[0];
  context.strokeStyle = '#9b9382';
  context.strokeRect(ground.minX, ground.minY, ground.maxX - ground.minX, ground.maxY - ground.minY);
  planes.forEach(({ film, hex, path, leftOut }, i) => {
    const map = maps[i + 1] as Affine;
    under(map);
    const px = 1 / map[0];
    context.globalAlpha = lit === undefined || lit === film ? 1 : 0.28;
    if (leftOut) {
      context.setLineDash([5 * px, 4 * px]);
    } else {
      context.fillStyle = hex;
      context.fill(path, 'nonzero');
      context.setLineDash([]);
    }
    context.lineWidth = (lit === film ? 2.2 : 1) * px;
    context.strokeStyle = lit === film ? '#0d5c5f' : leftOut ? '#5c626d' : contrast(hex, 0.5);
    context.stroke(path);
    context.setLineDash([]);
    context.globalAlpha = 1;
  });
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
}

/** The uppermost film under the pointer. */
function filmAt({ currentTarget, nativeEvent }: PointerEvent<HTMLCanvasElement>, planes: readonly Plane[], maps: readonly Affine[]) {
  const context = currentTarget.getContext('2d');
  if (!context) return undefined;
  const found = planes.findLast(({ path }, i) => {
    context.setTransform(...(maps[i + 1] as Affine));
    return context.isPointInPath(path, nativeEvent.offsetX, nativeEvent.offsetY, 'nonzero');
  });
  context.setTransform(1, 0, 0, 1, 0, 0);
  return found?.film;
}

/** The films' names at their corners. */
function PlaneNames({ planes, maps, ground }: { planes: readonly Plane[]; maps: readonly Affine[]; ground: Box }) {
  const lit = useBuild((state) => state.lit);
  const places = useMemo(() => namePlaces(maps, ground), [maps, ground]);
  return planes.map(({ film, name, leftOut }, i) => (
    <span
      key={film}
      className={`pointer-events-none absolute max-w-40 truncate bg-paper/85 px-1 text-xs ${lit === film ? 'font-semibold text-teal' : ''}`}
      style={places[i]}
    >
      {i + 1} {name}
      {leftOut ? ', left out' : ''}
    </span>
  ));
}

/** How far the films are pulled apart. */
function Apart() {
  const apart = useBuild((state) => state.apart);
  return (
    <div className="absolute right-2 bottom-2 left-2 flex items-center gap-2 bg-paper/85 px-2 py-1 text-xs">
      <span>Flat</span>
      <Slider.Root
        value={[apart]}
        min={0}
        max={1}
        step={0.02}
        onValueChange={([value = 0]) => useBuild.setState({ apart: value })}
        className="relative flex h-5 flex-1 touch-none items-center"
      >
        <Slider.Track className="relative h-1 flex-1 bg-line-strong">
          <Slider.Range className="absolute h-full bg-teal" />
        </Slider.Track>
        <Slider.Thumb aria-label="Pull the films apart" className="block h-4 w-2.5 border border-teal bg-sheet" />
      </Slider.Root>
      <span>Apart</span>
    </div>
  );
}

export function StackView({ drawing, answer, surface }: { drawing: Drawing; answer: BuildAnswer; surface: Surface }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const size = useSizeOf(canvas);
  const { lit, apart } = useBuild();
  const planes = useMemo(() => planesOf(drawing, answer), [drawing, answer]);
  const ground = useMemo(
    () =>
      isEmptyBox(answer.box)
        ? { minX: 0, minY: 0, maxX: surface.widthMm, maxY: surface.heightMm }
        : growBox(answer.box, 0.06 * Math.max(answer.box.maxX - answer.box.minX, answer.box.maxY - answer.box.minY)),
    [answer, surface],
  );
  const maps = useMemo(() => stackMaps(ground, planes.length, size, apart), [ground, planes.length, size, apart]);
  useLayoutEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || size.width === 0) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = Math.round(size.width * ratio);
    element.height = Math.round(size.height * ratio);
    paintStack(context, ratio, planes, maps, { surface, ground, lit });
  }, [planes, maps, size, lit, surface, ground]);
  return (
    <div className="relative min-h-0 flex-1 overflow-hidden">
      <canvas
        ref={canvas}
        role="img"
        aria-label={`Films from the surface up: ${planes.map(({ name }) => name).join(', ')}`}
        className="absolute inset-0 size-full"
        onPointerMove={(event) => light(filmAt(event, planes, maps))}
        onPointerLeave={() => light(undefined)}
      />
      {apart > 0.25 ? <PlaneNames planes={planes} maps={maps} ground={ground} /> : null}
      <Apart />
    </div>
  );
}
