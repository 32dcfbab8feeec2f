/** Gradients that came with a file: cut in one flat colour, or shown and written as a print has them. */
import { leavesOf, setPrinted, type ShapeItem } from '@lorvek/model';
import { dispatch, useDocument } from '../../document/store.ts';
import { Card } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';

const MOST_SHOWN = 6;

/** Along its course, from left to right. */
const inkOf = ({ stops }: NonNullable<ShapeItem['gradient']>): string =>
  stops.length === 1
    ? (stops[0]?.hex ?? 'none')
    : `linear-gradient(to right, ${stops.map(({ hex, offset }) => `${hex} ${Math.round(offset * 1000) / 10}%`).join(', ')})`;

export function GradientCard({ ids }: { ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  const shapes = leavesOf(drawing, ids).filter((leaf): leaf is ShapeItem => leaf.kind === 'shape' && leaf.gradient !== undefined);
  if (shapes.length === 0) return null;
  const inks = [...new Set(shapes.flatMap(({ gradient }) => (gradient ? [inkOf(gradient)] : [])))];
  const printed = shapes.filter((shape) => shape.printed).length;
  const value = printed === 0 ? 'flat' : printed === shapes.length ? 'printed' : '';
  return (
    <Card title={shapes.length === 1 ? 'Gradient' : `${shapes.length} gradients`}>
      <div className="flex gap-1">
        {inks.slice(0, MOST_SHOWN).map((ink) => (
          <span key={ink} className="h-5 flex-1 border border-line-strong" style={{ background: ink }} />
        ))}
      </div>
      <PickRow
        label="How the gradient is shown and written"
        value={value}
        options={[
          { value: 'flat', label: 'Flat: in the one colour of its film, as it is cut', content: 'Flat, for cutting' },
          { value: 'printed', label: 'As printed: with its gradient', content: 'As printed' },
        ]}
        onChange={(next) => dispatch(setPrinted, { ids, printed: next === 'printed' }, { origin: 'item.printed' })}
      />
      <p className="text-[13px] text-ink-soft">
        A film has one colour. As printed, the drawing, its proof and SVG, PDF and PNG files show the gradient; the cut stays the same.
      </p>
    </Card>
  );
}
