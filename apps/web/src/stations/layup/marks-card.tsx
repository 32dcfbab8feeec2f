/** Registration marks of a print. */
import { isPrint, USUAL_MARKS, type Marks } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { Pick, PickRow, Switch } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { change } from './change.ts';

const MARK_KINDS: Record<Marks['kind'], string> = {
  'corners-in': 'Corners in: least material',
  'corners-out': 'Corners out',
  dots: 'Dots',
  crosses: 'Crosses',
};

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
          <Pick
            label="Kind of mark"
            value={marks.kind}
            options={(Object.keys(MARK_KINDS) as Marks['kind'][]).map((kind) => ({ value: kind, text: MARK_KINDS[kind] }))}
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
          <Switch label="Job code beside the first mark" checked={marks.code} onChange={(code) => set({ code })} />
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
