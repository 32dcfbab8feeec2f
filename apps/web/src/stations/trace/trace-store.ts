/** The trace that is being worked on: settings kept with the picture, the last result, what is under way. */
import { compose, translation } from '@lorvek/core/geometry';
import { itemOf, layTrace, setItemFields, showWithin, type PictureItem, type ShapeItem, type TraceSettings } from '@lorvek/model';
import { toast } from 'sonner';
import { create } from 'zustand';
import { sentenceOf } from '../../api/client.ts';
import { asOne, dispatch, newId, select, useDocument } from '../../document/store.ts';
import { gestureOf } from '../../document/gesture.ts';
import { picturesOf } from '../../drawing/pictures.ts';
import { askLook, askTrace, stopTrace } from '../../worker/compute.ts';
import type { TraceAnswer, TraceAsked } from '@lorvek/computations';
import { usePicking } from './picking.ts';
import { filmsFor } from '../../document/films.ts';
import { stackedOf, takeStacked, type StackedItem } from '../../document/stacking.ts';

export const USUAL: TraceSettings = {
  clean: 'auto',
  colours: null,
  leaveOut: [],
  stacking: 'inlaid',
  smoothness: 0.5,
  cornerDeg: 30,
  smallestPx: null,
  result: null,
};

/** Longest side that is traced while settings change. */
const PREVIEW_PX = 900;
/** Longest side of the first look, which comes before that. */
const FIRST_PX = 360;
const FULL_PX = 12_000;
const SETTLED_MS = 150;

interface Tracing {
  readonly picture: string | undefined;
  readonly answer: TraceAnswer | undefined;
  /** Colours that were ever seen for this picture, those left out among them. */
  readonly seen: readonly string[];
  readonly busy: 'no' | 'preview' | 'full';
  readonly problem: string | undefined;
  /** How much of the tracing under way is done, 0 to 1. */
  readonly share: number;
}

export const useTracing = create<Tracing>(() => ({
  picture: undefined,
  answer: undefined,
  seen: [],
  busy: 'no',
  problem: undefined,
  share: 0,
}));

/** The picture that is traced: the selected one, else the first. */
export function tracedPicture(
  drawing: ReturnType<typeof useDocument.getState>['drawing'],
  selection: readonly string[],
): PictureItem | undefined {
  const pictures = picturesOf(drawing);
  return pictures.find((picture) => selection.includes(picture.id)) ?? pictures.find((picture) => picture.trace) ?? pictures[0];
}

let sequence = 0;
let timer: ReturnType<typeof setTimeout> | undefined;

/** Traces at screen size a moment after the settings have settled; what was under way is stopped. */
export function preview(picture: PictureItem): void {
  const mine = ++sequence;
  clearTimeout(timer);
  if (useTracing.getState().picture !== picture.id) {
    useTracing.setState({ picture: picture.id, answer: undefined, seen: [], problem: undefined });
    usePicking.setState({ picking: 'none', corners: [], looked: undefined });
  }
  timer = setTimeout(() => {
    if (useTracing.getState().busy !== 'no') stopTrace();
    useTracing.setState({ busy: 'preview' });
    const asked = { asset: picture.asset, settings: picture.trace ?? USUAL, mmPerPx: picture.mmPerPx, withCleaned: true };
    const take = (answer: TraceAnswer, busy: 'no' | 'preview'): void => {
      if (mine === sequence) useTracing.setState({ answer, busy, problem: undefined, seen: seenWith(answer, picture) });
    };
    const fail = (error: unknown): void => {
      if (mine === sequence) useTracing.setState({ busy: 'no', problem: sentenceOf(error) });
    };
    look({ ...asked, mostPx: FIRST_PX, quick: true }, (answer) => take(answer, 'preview'));
    askTrace('trace', { ...asked, mostPx: PREVIEW_PX }).then((answer) => take(answer, 'no'), fail);
  }, SETTLED_MS);
}

type Look = readonly [TraceAsked, (answer: TraceAnswer) => void];
let nextLook: Look | undefined;
let isLooking = false;

/** A first look, one at a time; of those asked for meanwhile the last. */
function look(...asked: Look): void {
  nextLook = asked;
  if (!isLooking) void lookOn();
}

async function lookOn(): Promise<void> {
  isLooking = true;
  while (nextLook) {
    const [asked, take] = nextLook;
    nextLook = undefined;
    try {
      const answer = await askLook('trace', asked);
      // the closer one may have been there before
      if (useTracing.getState().busy === 'preview') take(answer);
    } catch {
      // what the first look fails with, the second says
    }
  }
  isLooking = false;
}

/** Colours of an answer, with those seen before that are left out. */
function seenWith({ layers }: TraceAnswer, picture: PictureItem): string[] {
  const { seen } = useTracing.getState();
  const hexes = [...seen, ...layers.map(({ hex }) => hex).filter((hex) => !seen.includes(hex))];
  return hexes.filter((hex) => layers.some((layer) => layer.hex === hex) || picture.trace?.leaveOut.includes(hex));
}

export function stop(): void {
  sequence++;
  stopTrace();
  useTracing.setState({ busy: 'no' });
}

export const setTrace = (picture: PictureItem, fields: Partial<TraceSettings>): void =>
  void dispatch(
    setItemFields,
    { id: picture.id, fields: { trace: { ...(picture.trace ?? USUAL), ...fields } } },
    { origin: 'trace.set', group: gestureOf(`trace ${picture.id} ${Object.keys(fields).join(' ')}`) },
  );

/** Traces in full and lays the result over the picture, in place of an earlier one; the picture is then hidden. */
export async function placeTrace(picture: PictureItem): Promise<void> {
  const mine = ++sequence;
  const settings = picture.trace ?? USUAL;
  if (useTracing.getState().busy !== 'no') stopTrace();
  useTracing.setState({ busy: 'full', share: 0 });
  try {
    const answer = await askTrace(
      'trace',
      { asset: picture.asset, settings, mmPerPx: picture.mmPerPx, mostPx: FULL_PX, withCleaned: false },
      (share) => useTracing.setState({ share }),
    );
    if (mine !== sequence) return;
    await layOver(picture, settings, answer, () => mine === sequence);
  } catch (error) {
    if (mine === sequence) toast.error(sentenceOf(error));
  } finally {
    if (mine === sequence) useTracing.setState({ busy: 'no' });
  }
}

/** Makes the outline of what is not clear of the picture a shape, and shows the picture only within it. */
export async function placeEdge(picture: PictureItem): Promise<void> {
  const settings = picture.trace ?? USUAL;
  try {
    const path = await askTrace('silhouette', { asset: picture.asset, settings, mostPx: FULL_PX });
    if (path === '') {
      toast.warning(
        'No outline was found: nothing of the picture is clear, or all of it. Change the reach of its ground, or clear a colour.',
      );
      return;
    }
    const k = picture.mmPerPx;
    const edge: ShapeItem = {
      type: 'item',
      kind: 'shape',
      id: newId('item'),
      name: `Edge of ${picture.name}`.slice(0, 120),
      layer: null,
      matrix: [...compose(picture.matrix, [k, 0, 0, k, 0, 0])] as ShapeItem['matrix'],
      path,
    };
    if (!dispatch(showWithin, { picture: picture.id, edge }, { origin: 'trace.edge' })) return;
    toast.success('The picture is shown within its outline; the outline is a shape of its own for the edge cut.');
  } catch (error) {
    toast.error(sentenceOf(error));
  }
}

async function layOver(picture: PictureItem, settings: TraceSettings, answer: TraceAnswer, isAsked: () => boolean): Promise<void> {
  const { drawing } = useDocument.getState();
  const films = filmsFor(answer.layers.map(({ hex }) => hex));
  const k = picture.mmPerPx;
  const found = answer.layers.flatMap(({ hex, parts }) =>
    parts.map(({ path, x, y }): StackedItem => ({
      hex,
      item: {
        type: 'item',
        kind: 'shape',
        id: newId('item'),
        name: `${hex} of ${picture.name}`.slice(0, 120),
        layer: films.of.get(hex) ?? null,
        matrix: [
          ...compose(picture.matrix, compose([k, 0, 0, k, 0, 0], translation(x + answer.originX, y + answer.originY))),
        ] as ShapeItem['matrix'],
        path,
        paint: { fill: { hex } },
      },
    })),
  );
  if (found.length === 0) {
    toast.warning('Nothing was found that could be traced: the picture has one colour only, or all are left out.');
    return;
  }
  const earlier = settings.result;
  const { items, strip } = await stackedOf(found, films, earlier && itemOf(drawing, earlier) ? [earlier] : []);
  // stopped meanwhile
  if (!isAsked()) return;
  const shapes = items.map(({ item }) => item);
  const id = newId('item');
  const taken = asOne({ origin: 'trace.place' }, () => {
    takeStacked(films, strip);
    dispatch(layTrace, { picture: picture.id, settings, shapes, id }, { origin: 'trace.place' });
  });
  if (!taken) return;
  select([id]);
  const without = shapes.filter(({ layer: film }) => film === null).length;
  toast.success(
    `The trace lies where the picture was; the picture is hidden under it.${without > 0 ? ` ${without} of its colours have no film yet.` : ''}`,
  );
}
