/** Guides: where they stand, and how one is set by number. */
import { pageOf, setGuides, type Guide } from '@lorvek/model';
import { Trash2 } from 'lucide-react';
import { dispatch, newId, useDocument } from '../../document/store.ts';
import { boxOf } from '../../drawing/selection.ts';
import { Button, IconButton } from '../../ui/button.tsx';
import { Card } from '../../ui/card.tsx';
import { LengthField } from '../../ui/fields.tsx';

const sorted = (guides: readonly Guide[]): Guide[] => [...guides].sort((a, b) => a.axis.localeCompare(b.axis) || a.mm - b.mm);

export function GuidesCard() {
  const drawing = useDocument((state) => state.drawing);
  const { unit, guides = [], surface } = pageOf(drawing);
  const put = (next: readonly Guide[]): void => void dispatch(setGuides, { guides: next }, { origin: 'guide.set' });
  const add = (axis: 'x' | 'y'): void =>
    put([...guides, { id: newId('guide'), axis, mm: axis === 'x' ? surface.widthMm / 2 : surface.heightMm / 2 }]);
  return (
    <Card title="Guides" startsOpen={guides.length > 0}>
      {guides.length === 0 ? <p className="text-[13px] text-ink-soft">Pull one out of a ruler, or set it by number.</p> : null}
      <ul className="flex flex-col gap-1">
        {sorted(guides).map((guide) => (
          <li key={guide.id} className="flex items-center gap-1.5">
            <div className="flex-1">
              <LengthField
                wide
                label={guide.axis === 'x' ? 'Upright guide' : 'Level guide'}
                short={guide.axis === 'x' ? 'Upright at X' : 'Level at Y'}
                mm={guide.mm}
                unit={unit}
                onChange={(mm) => put(guides.map((one) => (one.id === guide.id ? { ...one, mm } : one)))}
              />
            </div>
            <IconButton label="Remove this guide" className="size-6!" onClick={() => put(guides.filter((one) => one.id !== guide.id))}>
              <Trash2 size={13} />
            </IconButton>
          </li>
        ))}
      </ul>
      <div className="flex gap-1.5">
        <Button size="small" className="flex-1" onClick={() => add('x')}>
          Upright
        </Button>
        <Button size="small" className="flex-1" onClick={() => add('y')}>
          Level
        </Button>
      </div>
    </Card>
  );
}

/** Guides through the selection's middle or along its edges. */
export function guidesThrough(ids: readonly string[], where: 'centre' | 'edges'): void {
  const { drawing } = useDocument.getState();
  const box = boxOf(drawing, ids);
  if (!box) return;
  const places: [Guide['axis'], number][] =
    where === 'centre'
      ? [
          ['x', (box.minX + box.maxX) / 2],
          ['y', (box.minY + box.maxY) / 2],
        ]
      : [
          ['x', box.minX],
          ['x', box.maxX],
          ['y', box.minY],
          ['y', box.maxY],
        ];
  const made = places.map(([axis, mm]): Guide => ({ id: newId('guide'), axis, mm: Math.round(mm * 100) / 100 }));
  dispatch(setGuides, { guides: [...(pageOf(drawing).guides ?? []), ...made] }, { origin: 'guide.through' });
}
