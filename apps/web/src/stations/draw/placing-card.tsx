/** Align and distribute: to the selection or the surface; by gap, edge pitch or centre pitch, with the overall size that results. */
import { align, distribute, type Axis, type Line, type Spacing } from '@lorvek/core/placing';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { joinBoxes, EMPTY_BOX, type Box } from '@lorvek/core/geometry';
import { moveEach, pageOf, type Drawing } from '@lorvek/model';
import {
  AlignCenterHorizontal,
  AlignCenterVertical,
  AlignEndHorizontal,
  AlignEndVertical,
  AlignStartHorizontal,
  AlignStartVertical,
} from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { dispatch, useDocument } from '../../document/store.ts';
import { boxOf } from '../../drawing/selection.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Card, Figure } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { usePlacingPreview, type PlacingPreview } from './overlay.tsx';
import { makeRow } from './row-card.tsx';
import { guidesThrough } from './guides-card.tsx';
import { useMeasured } from './tools/measure-tool.tsx';

interface Placed {
  id: string;
  box: Box;
}

/** Axis-parallel boxes of the selected items. */
const placedOf = (drawing: Drawing, ids: readonly string[]): Placed[] =>
  ids.flatMap((id) => {
    const box = boxOf(drawing, [id]);
    return box ? [{ id, box }] : [];
  });

const LINES: readonly { axis: Axis; line: Line; label: string; icon: ReactNode }[] = [
  { axis: 'x', line: 'low', label: 'Left edges', icon: <AlignStartVertical size={16} /> },
  { axis: 'x', line: 'middle', label: 'Centres, one above another', icon: <AlignCenterVertical size={16} /> },
  { axis: 'x', line: 'high', label: 'Right edges', icon: <AlignEndVertical size={16} /> },
  { axis: 'y', line: 'high', label: 'Upper edges', icon: <AlignStartHorizontal size={16} /> },
  { axis: 'y', line: 'middle', label: 'Centres, side by side', icon: <AlignCenterHorizontal size={16} /> },
  { axis: 'y', line: 'low', label: 'Lower edges', icon: <AlignEndHorizontal size={16} /> },
];

/** Where boxes come to lie, and the ways between them as arrows. */
function previewOf(placed: readonly Placed[], axis: Axis, shifts: readonly number[], spacing: Spacing): PlacingPreview {
  const boxes = placed.map(({ box }, i): Box => {
    const s = shifts[i] ?? 0;
    return axis === 'x' ? { ...box, minX: box.minX + s, maxX: box.maxX + s } : { ...box, minY: box.minY + s, maxY: box.maxY + s };
  });
  const low = (b: Box): number => (axis === 'x' ? b.minX : b.minY);
  const high = (b: Box): number => (axis === 'x' ? b.maxX : b.maxY);
  const order = [...boxes].sort((a, b) => low(a) + high(a) - low(b) - high(b));
  const level = axis === 'x' ? Math.min(...boxes.map((b) => b.minY)) : Math.min(...boxes.map((b) => b.minX));
  const at = (along: number) => (axis === 'x' ? { x: along, y: level } : { x: level, y: along });
  const ends = (a: Box, b: Box): [number, number] => {
    if (spacing === 'gap') return [high(a), low(b)];
    return spacing === 'edge-pitch' ? [low(a), low(b)] : [(low(a) + high(a)) / 2, (low(b) + high(b)) / 2];
  };
  const arrows = order.slice(1, 40).map((b, i) => {
    const [from, to] = ends(order[i] as Box, b);
    return { from: at(from), to: at(to) };
  });
  return { boxes, arrows };
}

/** Shows a preview while the pointer or the keyboard is on what would do it. */
const shows = (make: () => PlacingPreview) => ({
  onPointerEnter: () => usePlacingPreview.setState({ shown: make() }),
  onPointerLeave: () => usePlacingPreview.setState({ shown: undefined }),
  onFocus: () => usePlacingPreview.setState({ shown: make() }),
  onBlur: () => usePlacingPreview.setState({ shown: undefined }),
});

function apply(placed: readonly Placed[], axis: Axis, shifts: readonly number[], origin: string): void {
  const moves = placed.map(({ id }, i) => ({ id, dx: axis === 'x' ? (shifts[i] ?? 0) : 0, dy: axis === 'y' ? (shifts[i] ?? 0) : 0 }));
  usePlacingPreview.setState({ shown: undefined });
  dispatch(moveEach, { moves }, { origin });
}

interface Spaced {
  readonly axis: Axis;
  readonly spacing: Spacing;
  readonly distanceMm: number;
}

function SpacedFields({ spaced: { axis, spacing }, onChange }: { spaced: Spaced; onChange(fields: Partial<Spaced>): void }) {
  return (
    <>
      <PickRow
        label="Distribute along"
        value={axis}
        options={[
          { value: 'x', label: 'Side by side', content: 'Side by side' },
          { value: 'y', label: 'One above another', content: 'One above another' },
        ]}
        onChange={(next) => onChange({ axis: next })}
      />
      <PickRow
        label="Measured as"
        value={spacing}
        options={[
          { value: 'gap', label: 'Gap: the clear way between neighbours', content: 'Gap' },
          { value: 'edge-pitch', label: 'Edge pitch: from one edge to the same edge of the next', content: 'Edge pitch' },
          { value: 'centre-pitch', label: 'Centre pitch: from centre to centre', content: 'Centre pitch' },
        ]}
        onChange={(next) => onChange({ spacing: next })}
      />
    </>
  );
}

/** The distance that was measured on the drawing last, to be taken. */
function TakeMeasured({ distanceMm, unit, onTake }: { distanceMm: number; unit: LengthUnit; onTake(mm: number): void }) {
  const measured = useMeasured((state) => state.measured);
  if (!measured) return null;
  const mm = Math.round(Math.hypot(measured.to.x - measured.from.x, measured.to.y - measured.from.y) * 100) / 100;
  if (Math.abs(mm - distanceMm) < 0.005) return null;
  return (
    <button type="button" className="self-start text-[13px] text-teal underline" onClick={() => onTake(mm)}>
      Take what was measured: {describeLength(mm, unit)}
    </button>
  );
}

function DistributeButtons({ placed, spaced }: { placed: readonly Placed[]; spaced: Spaced }) {
  const { axis, spacing, distanceMm } = spaced;
  const boxes = placed.map(({ box }) => box);
  const { shifts } = distribute(boxes, axis, spacing, distanceMm);
  const evenly = distribute(boxes, axis, spacing).shifts;
  const makeLive = (): void => {
    usePlacingPreview.setState({ shown: undefined });
    makeRow(
      placed.map(({ id }) => id),
      spaced,
    );
  };
  return (
    <>
      <div className="flex gap-1.5">
        <Button
          size="small"
          className="flex-1"
          {...shows(() => previewOf(placed, axis, shifts, spacing))}
          onClick={() => apply(placed, axis, shifts, 'item.distribute')}
        >
          Distribute
        </Button>
        <Button
          size="small"
          className="flex-1"
          disabled={placed.length < 3}
          {...shows(() => previewOf(placed, axis, evenly, spacing))}
          onClick={() => apply(placed, axis, evenly, 'item.distribute')}
        >
          Evenly between ends
        </Button>
      </div>
      <Button
        size="small"
        title="They stay together, and the distance can be changed until the row is set"
        {...shows(() => previewOf(placed, axis, shifts, spacing))}
        onClick={makeLive}
      >
        Make a live row
      </Button>
    </>
  );
}

function Distribute({ placed }: { placed: readonly Placed[] }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [spaced, setSpaced] = useState<Spaced>({ axis: 'x', spacing: 'gap', distanceMm: 10 });
  const { axis, spacing, distanceMm } = spaced;
  const set = (fields: Partial<Spaced>): void => setSpaced({ ...spaced, ...fields });
  const result = distribute(
    placed.map(({ box }) => box),
    axis,
    spacing,
    distanceMm,
  );
  return (
    <div className="flex flex-col gap-2 border-t pt-2">
      <SpacedFields spaced={spaced} onChange={set} />
      <LengthField wide label="Distance" mm={distanceMm} unit={unit} onChange={(mm) => set({ distanceMm: mm })} />
      <TakeMeasured distanceMm={distanceMm} unit={unit} onTake={(mm) => set({ distanceMm: mm })} />
      <div {...shows(() => previewOf(placed, axis, result.shifts, spacing))} className="text-2xs text-ink-soft underline decoration-dotted">
        Point here to see it on the drawing
      </div>
      <Figure name="Overall size then">{describeLength(Math.round(result.overallMm * 100) / 100, unit)}</Figure>
      <DistributeButtons placed={placed} spaced={spaced} />
    </div>
  );
}

type AlignTo = 'selection' | 'surface' | 'key' | 'guide';

const ALIGN_TO: readonly { value: AlignTo; label: string; content: string }[] = [
  { value: 'selection', label: 'To the selection', content: 'Selection' },
  { value: 'surface', label: 'To the surface', content: 'Surface' },
  { value: 'key', label: 'To the item selected first', content: 'First' },
  { value: 'guide', label: 'To the nearest guide', content: 'Guide' },
];

/** The nearest guide to each box's line, as a box that is that line. */
function guideFrame(drawing: Drawing, box: Box, axis: Axis, line: Line): Box | undefined {
  const [low, high] = axis === 'x' ? [box.minX, box.maxX] : [box.minY, box.maxY];
  const own = line === 'low' ? low : line === 'high' ? high : (low + high) / 2;
  const guides = (pageOf(drawing).guides ?? []).filter((guide) => guide.axis === axis);
  const nearest = guides.sort((a, b) => Math.abs(a.mm - own) - Math.abs(b.mm - own))[0];
  return nearest && { minX: nearest.mm, maxX: nearest.mm, minY: nearest.mm, maxY: nearest.mm };
}

function alignment(drawing: Drawing, placed: readonly Placed[], to: AlignTo, axis: Axis, line: Line): number[] {
  const { surface } = pageOf(drawing);
  if (to === 'guide')
    return placed.map(({ box }) => {
      const frame = guideFrame(drawing, box, axis, line);
      return frame ? (align([box], frame, axis, line)[0] ?? 0) : 0;
    });
  const frame: Box =
    to === 'surface'
      ? { minX: 0, minY: 0, maxX: surface.widthMm, maxY: surface.heightMm }
      : to === 'key'
        ? (placed[0] as Placed).box
        : placed.reduce<Box>((sum, { box }) => joinBoxes(sum, box), EMPTY_BOX);
  return align(
    placed.map(({ box }) => box),
    frame,
    axis,
    line,
  );
}

export function PlacingCard({ ids }: { ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  useDerivedVersion();
  const [chosen, setChosen] = useState<AlignTo>('selection');
  useEffect(() => () => usePlacingPreview.setState({ shown: undefined }), []);
  const placed = placedOf(drawing, ids);
  if (placed.length === 0) return null;
  const to = placed.length === 1 && chosen !== 'guide' ? 'surface' : chosen;
  return (
    <Card title="Align and distribute" startsOpen={false}>
      <PickRow<AlignTo>
        label="Align to"
        value={to}
        options={ALIGN_TO.filter(({ value }) => placed.length > 1 || value === 'surface' || value === 'guide')}
        onChange={setChosen}
      />
      <div className="-mx-1 flex justify-between">
        {LINES.map(({ axis, line, label, icon }) => (
          <IconButton
            key={label}
            label={label}
            {...shows(() => ({ boxes: previewOf(placed, axis, alignment(drawing, placed, to, axis, line), 'gap').boxes, arrows: [] }))}
            onClick={() => apply(placed, axis, alignment(drawing, placed, to, axis, line), 'item.align')}
          >
            {icon}
          </IconButton>
        ))}
      </div>
      {placed.length > 1 ? <Distribute placed={placed} /> : null}
      <div className="flex gap-1.5 border-t pt-2">
        <Button size="small" className="flex-1" onClick={() => guidesThrough(ids, 'centre')}>
          Guides through middle
        </Button>
        <Button size="small" className="flex-1" onClick={() => guidesThrough(ids, 'edges')}>
          Guides at edges
        </Button>
      </div>
    </Card>
  );
}
