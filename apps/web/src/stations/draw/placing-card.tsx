/** Align and distribute: to the selection or the surface; by gap, edge pitch or centre pitch, with the overall size that results. */
import { align, distribute, type Axis, type Line, type Spacing } from '@lorvek/core/placing';
import { describeLength } from '@lorvek/core/units';
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
import { useState, type ReactNode } from 'react';
import { dispatch, useDocument } from '../../document/store.ts';
import { frameOf } from '../../drawing/selection.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Card, Figure } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';

interface Placed {
  id: string;
  box: Box;
}

/** Axis-parallel boxes of the selected items. The empty id asks for the drawing's directions, not the item's own. */
const placedOf = (drawing: Drawing, ids: readonly string[]): Placed[] =>
  ids.flatMap((id) => {
    const frame = frameOf(drawing, [id, '']);
    return frame ? [{ id, box: frame.box }] : [];
  });

const LINES: readonly { axis: Axis; line: Line; label: string; icon: ReactNode }[] = [
  { axis: 'x', line: 'low', label: 'Left edges', icon: <AlignStartVertical size={16} /> },
  { axis: 'x', line: 'middle', label: 'Centres, one above another', icon: <AlignCenterVertical size={16} /> },
  { axis: 'x', line: 'high', label: 'Right edges', icon: <AlignEndVertical size={16} /> },
  { axis: 'y', line: 'high', label: 'Upper edges', icon: <AlignStartHorizontal size={16} /> },
  { axis: 'y', line: 'middle', label: 'Centres, side by side', icon: <AlignCenterHorizontal size={16} /> },
  { axis: 'y', line: 'low', label: 'Lower edges', icon: <AlignEndHorizontal size={16} /> },
];

function apply(placed: readonly Placed[], axis: Axis, shifts: readonly number[], origin: string): void {
  const moves = placed.map(({ id }, i) => ({ id, dx: axis === 'x' ? (shifts[i] ?? 0) : 0, dy: axis === 'y' ? (shifts[i] ?? 0) : 0 }));
  dispatch(moveEach, { moves }, { origin });
}

function Distribute({ placed }: { placed: readonly Placed[] }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [axis, setAxis] = useState<Axis>('x');
  const [spacing, setSpacing] = useState<Spacing>('gap');
  const [distance, setDistance] = useState(10);
  const boxes = placed.map(({ box }) => box);
  const result = distribute(boxes, axis, spacing, distance);
  return (
    <div className="flex flex-col gap-2 border-t pt-2">
      <PickRow
        label="Distribute along"
        value={axis}
        options={[
          { value: 'x', label: 'Side by side', content: 'Side by side' },
          { value: 'y', label: 'One above another', content: 'One above another' },
        ]}
        onChange={(next) => setAxis(next)}
      />
      <PickRow
        label="Measured as"
        value={spacing}
        options={[
          { value: 'gap', label: 'Gap: the clear way between neighbours', content: 'Gap' },
          { value: 'edge-pitch', label: 'Edge pitch: from one edge to the same edge of the next', content: 'Edge pitch' },
          { value: 'centre-pitch', label: 'Centre pitch: from centre to centre', content: 'Centre pitch' },
        ]}
        onChange={(next) => setSpacing(next)}
      />
      <LengthField wide label="Distance" mm={distance} unit={unit} onChange={setDistance} />
      <Figure name="Overall size then">{describeLength(Math.round(result.overallMm * 100) / 100, unit)}</Figure>
      <div className="flex gap-1.5">
        <Button size="small" className="flex-1" onClick={() => apply(placed, axis, result.shifts, 'item.distribute')}>
          Distribute
        </Button>
        <Button
          size="small"
          className="flex-1"
          disabled={placed.length < 3}
          onClick={() => apply(placed, axis, distribute(boxes, axis, spacing).shifts, 'item.distribute')}
        >
          Evenly between ends
        </Button>
      </div>
    </div>
  );
}

export function PlacingCard({ ids }: { ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  useDerivedVersion();
  const [chosen, setChosen] = useState<'selection' | 'surface'>('selection');
  const placed = placedOf(drawing, ids);
  if (placed.length === 0) return null;
  const to = placed.length === 1 ? 'surface' : chosen;
  const { surface } = pageOf(drawing);
  const frame: Box =
    to === 'surface'
      ? { minX: 0, minY: 0, maxX: surface.widthMm, maxY: surface.heightMm }
      : placed.reduce<Box>((sum, { box }) => joinBoxes(sum, box), EMPTY_BOX);
  return (
    <Card title="Align and distribute" startsOpen={false}>
      {placed.length > 1 ? (
        <PickRow
          label="Align to"
          value={chosen}
          options={[
            { value: 'selection', label: 'To the selection', content: 'To the selection' },
            { value: 'surface', label: 'To the surface', content: 'To the surface' },
          ]}
          onChange={(next) => setChosen(next)}
        />
      ) : (
        <p className="text-[13px] text-ink-soft">To the surface</p>
      )}
      <div className="-mx-1 flex justify-between">
        {LINES.map(({ axis, line, label, icon }) => (
          <IconButton
            key={label}
            label={label}
            onClick={() =>
              apply(
                placed,
                axis,
                align(
                  placed.map(({ box }) => box),
                  frame,
                  axis,
                  line,
                ),
                'item.align',
              )
            }
          >
            {icon}
          </IconButton>
        ))}
      </div>
      {placed.length > 1 ? <Distribute placed={placed} /> : null}
    </Card>
  );
}
