/** The Draw station's ticket: the cards of the drawing, or of what is selected. */
import { lazy, Suspense } from 'react';
import { useLater } from '../../ui/use-later.ts';
import { GuidesCard } from './guides-card.tsx';
import { itemOf, leavesOf, pageOf, setSurface, setUnit } from '@lorvek/model';
import { gestureOf } from '../../document/gesture.ts';
import { dispatch, useDocument } from '../../document/store.ts';
import { TextCell } from '../../ui/text-cell.tsx';
import { Card } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { InboxCard } from './bring-in/inbox-card.tsx';
import { ItemsCard } from './items-card.tsx';
import { BringInButton } from './picture-card.tsx';

const loadSelection = () => import('./selection-cards.tsx');
const SelectionCards = lazy(async () => ({ default: (await loadSelection()).SelectionCards }));

/** What the sign stands on. */
function SurfaceCard() {
  const { surface, unit } = pageOf(useDocument((state) => state.drawing));
  return (
    <Card title="Surface">
      <TextCell
        label="Name of the surface"
        value={surface.name}
        onChange={(name) => dispatch(setSurface, { fields: { name } }, { origin: 'page.surface' })}
      />
      <div className="grid grid-cols-2 gap-2">
        <LengthField
          label="Width of the surface"
          short="W"
          mm={surface.widthMm}
          unit={unit}
          minMm={1}
          onChange={(widthMm) => dispatch(setSurface, { fields: { widthMm } }, { origin: 'page.surface' })}
        />
        <LengthField
          label="Height of the surface"
          short="H"
          mm={surface.heightMm}
          unit={unit}
          minMm={1}
          onChange={(heightMm) => dispatch(setSurface, { fields: { heightMm } }, { origin: 'page.surface' })}
        />
      </div>
      <BringInButton />
      <label className="flex items-center justify-between">
        Colour
        <input
          type="color"
          value={surface.hex}
          onChange={(event) =>
            dispatch(setSurface, { fields: { hex: event.target.value } }, { origin: 'page.surface', group: gestureOf('surface colour') })
          }
          className="h-7 w-14 border border-line-strong bg-sheet p-0.5"
        />
      </label>
    </Card>
  );
}

function UnitsCard() {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  return (
    <Card title="Units">
      <PickRow
        label="Unit"
        value={unit}
        options={[
          { value: 'mm', label: 'Millimetres', content: 'mm' },
          { value: 'cm', label: 'Centimetres', content: 'cm' },
          { value: 'in', label: 'Inches, decimal', content: 'in' },
          { value: 'in-fraction', label: 'Inches with fractions', content: 'in ⅜' },
        ]}
        onChange={(next) => dispatch(setUnit, { unit: next }, { origin: 'page.unit' })}
      />
      <p className="text-[13px] text-ink-soft">
        Every field also takes another unit and arithmetic: <span className="numerals">3*16 + 2 in</span>
      </p>
    </Card>
  );
}

function DrawingCards() {
  const drawing = useDocument((state) => state.drawing);
  const count = leavesOf(drawing).length;
  return (
    <>
      {count === 0 ? (
        <Card title="Begin">
          <p>
            Take a film from Stock at the left, then press <kbd className="numerals font-medium">L</kbd>, click on the surface and write.
          </p>
        </Card>
      ) : null}
      <SurfaceCard />
      <InboxCard />
      <GuidesCard />
      <ItemsCard />
      <UnitsCard />
    </>
  );
}

export function DrawTicket() {
  const isSelected = useDocument(({ drawing, selection }) => selection.some((id) => itemOf(drawing, id)));
  useLater(loadSelection);
  return isSelected ? (
    <Suspense>
      <SelectionCards />
    </Suspense>
  ) : (
    <DrawingCards />
  );
}
