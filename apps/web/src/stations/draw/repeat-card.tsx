/** Repeat: exact copies along a line, in a grid, or round a centre, seen before they are made. */
import { compose, joinBoxes, mapBox, type Box, type Matrix, type Point } from '@lorvek/core/geometry';
import { repeatMaps } from '@lorvek/core/placing';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { addItems, copyItems, mapItem, pageOf, type Item } from '@lorvek/model';
import { useState } from 'react';
import { toast } from 'sonner';
import { sentenceOf } from '../../api/client.ts';
import { dispatch, newId, select, useDocument } from '../../document/store.ts';
import { boxOf } from '../../drawing/selection.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { LengthField, NumberField } from '../../ui/fields.tsx';
import { useDerivedVersion } from '../../worker/derived.ts';
import { copiesWithin, toRepeat, type Asked } from './repeat-plan.ts';
import { usePlacingPreview } from './overlay.tsx';
import { axisOf, makeRow } from './row-card.tsx';

function copiesOf(ids: readonly string[], maps: readonly Matrix[]): { items: Item[]; roots: string[] } {
  const { drawing } = useDocument.getState();
  const items: Item[] = [];
  const roots: string[] = [];
  for (const map of maps) {
    const copy = copyItems(drawing, ids, () => newId('item'));
    items.push(...copy.items.map((item) => (item.kind === 'group' ? item : mapItem(item, map))));
    roots.push(...copy.roots);
  }
  return { items, roots };
}

/** Copies of one thing along an axis that stay a row. */
function makeLiveRow(id: string, maps: readonly Matrix[], { dx, dy, measured }: Asked): void {
  const axis = axisOf(dx, dy);
  if (!axis) return;
  const { items, roots } = copiesOf([id], maps);
  const distanceMm = Math.abs(axis === 'x' ? dx : dy);
  makeRow([id], { axis, spacing: measured === 'gap' ? 'gap' : 'edge-pitch', distanceMm }, () => {
    dispatch(addItems, { items, roots }, { origin: 'item.repeat' });
    return roots;
  });
}

function makeCopies(ids: readonly string[], maps: readonly Matrix[]): void {
  const { items, roots } = copiesOf(ids, maps);
  if (!dispatch(addItems, { items, roots }, { origin: 'item.repeat' })) return;
  select([...ids, ...roots]);
  toast.success(`${maps.length} ${maps.length === 1 ? 'copy' : 'copies'} made: ${maps.length + 1} pieces in all.`);
}

interface RepeatFieldsProps {
  readonly asked: Asked;
  readonly unit: LengthUnit;
  /** Where a centre begins. */
  readonly around: Point;
  onChange(fields: Partial<Asked>): void;
}

/** How far from copy to copy. */
function StepFields({ asked, unit, onChange }: Omit<RepeatFieldsProps, 'around'>) {
  return asked.kind === 'round' ? (
    <>
      <NumberField label="Step of the turn" short="Step" value={asked.step} suffix="°" onChange={(step) => onChange({ step })} />
      <LengthField label="Centre X" short="X" mm={asked.cx} unit={unit} onChange={(cx) => onChange({ cx })} />
      <LengthField label="Centre Y" short="Y" mm={asked.cy} unit={unit} onChange={(cy) => onChange({ cy })} />
    </>
  ) : (
    <>
      <LengthField label="Step to the right" short="→" mm={asked.dx} unit={unit} onChange={(dx) => onChange({ dx })} />
      <LengthField label="Step upward" short="↑" mm={asked.dy} unit={unit} onChange={(dy) => onChange({ dy })} />
    </>
  );
}

function RepeatFields({ asked, unit, around, onChange }: RepeatFieldsProps) {
  return (
    <>
      <PickRow
        label="Repeat"
        value={asked.kind}
        options={[
          { value: 'line', label: 'Along a line', content: 'Line' },
          { value: 'grid', label: 'In a grid', content: 'Grid' },
          { value: 'round', label: 'Round a centre', content: 'Round' },
        ]}
        onChange={(kind) => onChange(kind === 'round' ? { kind, cx: around.x, cy: around.y } : { kind })}
      />
      <div className="grid grid-cols-2 gap-2">
        <NumberField
          label={asked.kind === 'grid' ? 'Columns' : 'Further copies'}
          value={asked.copies}
          decimals={0}
          min={1}
          max={5000}
          onChange={(copies) => onChange({ copies: Math.round(copies) })}
        />
        {asked.kind === 'grid' ? (
          <NumberField
            label="Rows"
            value={asked.rows}
            decimals={0}
            min={1}
            max={5000}
            onChange={(rows) => onChange({ rows: Math.round(rows) })}
          />
        ) : null}
        <StepFields asked={asked} unit={unit} onChange={onChange} />
      </div>
      {asked.kind === 'round' ? (
        <Switch label="Turn the copies along" checked={asked.turning} onChange={(turning) => onChange({ turning })} />
      ) : (
        <PickRow
          label="Steps are"
          value={asked.measured}
          options={[
            { value: 'pitch', label: 'Pitch: from one edge to the same edge of the next', content: 'Pitch' },
            { value: 'gap', label: 'Gap: the clear way between copies', content: 'Gap' },
          ]}
          onChange={(measured) => onChange({ measured })}
        />
      )}
    </>
  );
}

interface RepeatButtonProps {
  /** Of the pieces, the first where it lies now: the others are shown while the button is looked at. */
  readonly boxes: readonly Box[];
  readonly isPossible: boolean;
  readonly title?: string;
  onClick(): void;
  readonly children: string;
}

function RepeatButton({ boxes, isPossible, title, onClick, children }: RepeatButtonProps) {
  const show = (): void => usePlacingPreview.setState({ shown: { boxes: boxes.slice(1, 400), arrows: [] } });
  const hide = (): void => usePlacingPreview.setState({ shown: undefined });
  return (
    <Button
      size="small"
      disabled={!isPossible}
      title={title}
      onPointerEnter={show}
      onPointerLeave={hide}
      onFocus={show}
      onBlur={hide}
      onClick={() => {
        hide();
        onClick();
      }}
    >
      {children}
    </Button>
  );
}

/** What is asked for at first. */
const USUAL: Asked = {
  kind: 'line',
  copies: 3,
  rows: 2,
  dx: 100,
  dy: 0,
  cx: 0,
  cy: 0,
  step: 60,
  turning: true,
  measured: 'pitch',
};

interface Repeated {
  /** Where the copies go; in words why there are none. */
  readonly maps: readonly Matrix[] | string;
  /** Of the pieces, the first where it lies now. */
  readonly boxes: readonly Box[];
  readonly overall: Box;
}

function repeated(asked: Asked, box: Box, middle: Point): Repeated {
  try {
    const maps = repeatMaps(toRepeat(asked, box.maxX - box.minX, box.maxY - box.minY, middle));
    const boxes = [box, ...maps.map((map) => mapBox(compose(map, [1, 0, 0, 1, 0, 0]), box))];
    return { maps, boxes, overall: boxes.reduce(joinBoxes, box) };
  } catch (error) {
    return { maps: sentenceOf(error), boxes: [], overall: box };
  }
}

export function RepeatCard({ ids }: { ids: readonly string[] }) {
  useDerivedVersion();
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  const box = boxOf(drawing, ids);
  const [asked, setAsked] = useState(USUAL);
  if (!box) return null;
  const set = (fields: Partial<Asked>): void => setAsked((now) => ({ ...now, ...fields }));
  const [width, height] = [box.maxX - box.minX, box.maxY - box.minY];
  const middle = { x: (box.minX + box.maxX) / 2, y: (box.minY + box.maxY) / 2 };
  const { maps, boxes, overall } = repeated(asked, box, middle);
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return (
    <Card title="Repeat" startsOpen={false}>
      <RepeatFields asked={asked} unit={unit} around={{ x: middle.x, y: middle.y - height * 2 }} onChange={set} />
      {asked.kind === 'line' ? (
        <LengthField
          wide
          label="As many as fit into a length of"
          mm={Math.max(overall.maxX - overall.minX, overall.maxY - overall.minY)}
          unit={unit}
          minMm={1}
          onChange={(length) => set({ copies: copiesWithin(length, asked, width, height, middle) })}
        />
      ) : null}
      {typeof maps === 'string' ? null : <Figure name="Pieces in all">{maps.length + 1}</Figure>}
      <Figure name="Overall size then">
        {typeof maps === 'string' ? maps : `${say(overall.maxX - overall.minX)} × ${say(overall.maxY - overall.minY)}`}
      </Figure>
      <RepeatButton boxes={boxes} isPossible={typeof maps !== 'string'} onClick={() => typeof maps !== 'string' && makeCopies(ids, maps)}>
        Make the copies
      </RepeatButton>
      {asked.kind === 'line' && axisOf(asked.dx, asked.dy) && ids.length === 1 ? (
        <RepeatButton
          boxes={boxes}
          isPossible={typeof maps !== 'string'}
          title="They stay together, and pitch or gap can be changed until the row is set"
          onClick={() => typeof maps !== 'string' && ids[0] !== undefined && makeLiveRow(ids[0], maps, asked)}
        >
          Make a live row
        </RepeatButton>
      ) : null}
    </Card>
  );
}
