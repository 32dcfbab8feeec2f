/** Thinning out of nodes: live figures from the worker, old and new over one another on the drawing. */
import type { Outline, ThinnedOut } from '@lorvek/core/geometry';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { pageOf, type ShapeItem } from '@lorvek/model';
import { useEffect, useState } from 'react';
import { useDocument } from '../../document/store.ts';
import { ComparedKey, useCompared } from '../../drawing/compared.tsx';
import { putOutline } from '../../drawing/node-work.ts';
import { Button } from '../../ui/button.tsx';
import { Switch } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { askAside } from '../../worker/compute.ts';
import { tellFailure } from '../../ui/tell.ts';

export const describeDeviation = (mm: number, unit: LengthUnit): string =>
  unit === 'mm' ? `${mm.toFixed(3)} mm` : describeLength(mm, unit === 'in-fraction' ? 'in' : unit);

/** What thinning would give is worked out once the nodes lie still, not at every step of a drag. */
const SETTLED_MS = 200;

/** Fewer nodes within a tolerance, with what it would come to before it is done: figures, and old and new on the drawing. */
export function ThinOut({ item, outline }: { item: ShapeItem; outline: Outline }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const [tolerance, setTolerance] = useState(0.05);
  const [shown, setShown] = useState(true);
  const [thin, setThin] = useState<ThinnedOut>();
  const { matrix } = item;
  useEffect(() => {
    let current = true;
    setThin(undefined);
    const timer = setTimeout(() => {
      askAside('thin', { outline, tolMm: tolerance })
        .then((found) => current && setThin(found))
        .catch(tellFailure);
    }, SETTLED_MS);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [outline, tolerance]);
  const saves = thin !== undefined && thin.nodesAfter < thin.nodesBefore;
  useEffect(() => {
    if (!thin || !saves || !shown) return undefined;
    useCompared.setState({ pairs: [{ matrix, before: outline, after: thin.outline }] });
    return () => useCompared.setState({ pairs: [] });
  }, [thin, saves, shown, matrix, outline]);
  return (
    <div className="flex flex-col gap-1.5 border-t pt-2">
      <LengthField wide label="Thin out within" mm={tolerance} unit={unit} minMm={0.001} onChange={setTolerance} />
      <div className="flex items-center justify-between gap-2">
        <span className="numerals text-[13px] text-ink-soft">
          {thin ? `${thin.nodesBefore} → ${thin.nodesAfter} nodes, ${describeDeviation(thin.deviation, unit)}` : ''}
        </span>
        <Button size="small" disabled={!saves} onClick={() => void (thin && putOutline(item, thin.outline, 'node.thin-out'))}>
          Thin out
        </Button>
      </div>
      {saves ? <Switch label="Show old and new" checked={shown} onChange={setShown} /> : null}
      {saves && shown ? <ComparedKey /> : null}
    </div>
  );
}
