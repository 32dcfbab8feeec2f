/** Registration marks of a print. */
import { isPrint, itemOf, USUAL_MARKS, type Marks } from '@lorvek/model';
import { marksBandMm } from '@lorvek/core/sheet';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { asOne, useDocument } from '../../document/store.ts';
import { remove } from '../../drawing/remove.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { change } from './change.ts';

const MARK_KINDS: Record<Marks['kind'], string> = {
  'corners-in': 'Corners in',
  'corners-out': 'Corners out',
  dots: 'Dots',
  crosses: 'Crosses',
};

/** What the marks stand round; a rectangle that was drawn is used up by it. */
function Around({ sheet, marks, set }: { sheet: SheetPlan; marks: Marks; set(fields: Partial<Marks>): void }) {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const box = selection.length === 1 ? itemOf(drawing, selection[0] ?? '') : undefined;
  const isRectangle = box?.kind === 'box' && box.matrix[1] === 0 && box.matrix[2] === 0;
  const take = (): void => {
    if (box?.kind !== 'box') return;
    const [a, , , d, x, y] = box.matrix;
    const [x1, y1] = [x + a * box.widthMm, y + d * box.heightMm];
    const rectangle = { minX: Math.min(x, x1), minY: Math.min(y, y1), maxX: Math.max(x, x1), maxY: Math.max(y, y1) };
    asOne({ origin: 'sheet.marks' }, () => {
      set({ round: 'rectangle', rectangle });
      remove([box.id], { origin: 'item.remove' });
    });
  };
  const isAsDrawn = sheet.layUp.fill.kind === 'as-drawn' && sheet.placements.length === 1;
  return (
    <>
      <PickRow
        label="Marks stand"
        value={marks.round ?? 'work'}
        options={[
          { value: 'work', label: 'Round the work', content: 'Work' },
          { value: 'sheet', label: 'On the sheet’s corners', content: 'Sheet’s corners' },
          ...(marks.rectangle ? [{ value: 'rectangle' as const, label: 'On the rectangle that was drawn', content: 'Rectangle' }] : []),
        ]}
        onChange={(round) => set({ round })}
      />
      {isRectangle && isAsDrawn ? (
        <Button size="small" onClick={take}>
          Put them on the corners of “{box.name}”, which is used up
        </Button>
      ) : null}
      {marks.round === 'rectangle' && !isAsDrawn ? (
        <Notice level="warning">
          The rectangle lies on the drawing: with copies, a grid or a nest it stands round the first piece alone.
        </Notice>
      ) : null}
    </>
  );
}

interface MarkProps {
  readonly marks: Marks;
  readonly unit: LengthUnit;
  set(fields: Partial<Marks>): void;
}

/** What they look like, how many they are, how far from the work. */
function MarkFields({ marks, unit, set }: MarkProps) {
  const { midSpacingMm, ...plain } = marks;
  const bandOf = (kind: Marks['kind']): number => marksBandMm({ ...plain, kind, ...(midSpacingMm ? { midSpacingMm } : {}) });
  const kinds = (Object.keys(MARK_KINDS) as Marks['kind'][]).sort((a, b) => bandOf(a) - bandOf(b));
  const bandText = (kind: Marks['kind']): string => `${describeLength(Math.round(10 * bandOf(kind)) / 10, unit)} on each side`;
  return (
    <>
      <Pick
        label="Kind of mark"
        value={marks.kind}
        options={kinds.map((kind) => ({ value: kind, text: `${MARK_KINDS[kind]}: ${bandText(kind)}` }))}
        onChange={(kind) => set({ kind: kind as Marks['kind'] })}
      />
      <PickRow
        label="How many marks"
        value={String(marks.count)}
        options={(['2', '3', '4'] as const).map((value) => ({ value, label: `${value} marks`, content: value }))}
        onChange={(value) => set({ count: Number(value) as Marks['count'] })}
      />
      <div className="grid grid-cols-2 gap-2">
        <LengthField
          label="Distance from the work"
          short="Distance"
          mm={marks.distanceMm}
          unit={unit}
          minMm={1}
          onChange={(distanceMm) => set({ distanceMm })}
        />
        <LengthField label="Arm length" short="Arms" mm={marks.armMm} unit={unit} minMm={2} onChange={(armMm) => set({ armMm })} />
        <LengthField
          label="Line thickness"
          short="Thickness"
          mm={marks.thicknessMm}
          unit={unit}
          minMm={0.2}
          onChange={(thicknessMm) => set({ thicknessMm })}
        />
      </div>
    </>
  );
}

/** Marks between those at the corners, and the job's code. */
function MoreFields({ marks, unit, set }: MarkProps) {
  return (
    <>
      <Switch
        label="Mid marks along long sheets"
        checked={Boolean(marks.midSpacingMm)}
        onChange={(on) => set({ midSpacingMm: on ? 500 : null })}
      />
      {marks.midSpacingMm ? (
        <LengthField
          wide
          label="At most so far apart"
          mm={marks.midSpacingMm}
          unit={unit}
          minMm={50}
          onChange={(midSpacingMm) => set({ midSpacingMm })}
        />
      ) : null}
      <Switch label="Job code beside the first mark" checked={marks.code} onChange={(code) => set({ code })} />
      {marks.code ? (
        <PickRow
          label="Kind of code"
          value={marks.codeKind ?? 'data-matrix'}
          options={[
            { value: 'data-matrix', label: 'Data Matrix', content: 'Data Matrix' },
            { value: 'qr', label: 'QR code', content: 'QR' },
          ]}
          onChange={(codeKind) => set({ codeKind })}
        />
      ) : null}
    </>
  );
}

/** Registration marks of a print: what a camera finds before it cuts. */
export function MarksCard({ sheet, unit }: { sheet: SheetPlan; unit: LengthUnit }) {
  if (!isPrint(sheet.layer)) return null;
  const marks = sheet.markSettings?.marks ?? null;
  const set = (fields: Partial<Marks>): void => void change(sheet.layer.id, { marks: { ...(marks ?? USUAL_MARKS), ...fields } });
  return (
    <Card title="Registration marks">
      <Switch
        label="Marks for the camera"
        checked={marks !== null}
        onChange={(on) => change(sheet.layer.id, { marks: on ? USUAL_MARKS : null })}
      />
      {marks ? (
        <>
          <MarkFields marks={marks} unit={unit} set={set} />
          <Around sheet={sheet} marks={marks} set={set} />
          <MoreFields marks={marks} unit={unit} set={set} />
          {sheet.code ? <Figure name="Short name of the sheet">{sheet.code.text}</Figure> : null}
          <Figure name="Material for marks">
            {describeLength(Math.round(10 * (sheet.markSettings?.bandMm ?? 0)) / 10, unit)} on each side
          </Figure>
        </>
      ) : (
        <Notice level="note">Without marks a cutter cannot find the print: what is printed is then not cut to its line.</Notice>
      )}
    </Card>
  );
}
