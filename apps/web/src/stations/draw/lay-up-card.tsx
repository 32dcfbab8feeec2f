/** The way from what is drawn to its material: nesting, grids and sheets are made on Lay up. */
import { layUpOf, leavesOf, setLayUp, type Fill } from '@lorvek/model';
import { useNavigate } from 'react-router';
import { dispatch, useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { Card } from '../../ui/card.tsx';

const NEST: Fill = { kind: 'nest', gapMm: 5, turnStepDeg: 90, intoHoles: false };

export function LayUpCard({ ids }: { ids: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  const job = useDocument((state) => state.job);
  const navigate = useNavigate();
  const layer = leavesOf(drawing, ids).find((leaf) => leaf.layer !== null)?.layer;
  const go = (nests: boolean): void => {
    if (!layer || !job) return;
    useView.setState({ film: layer });
    if (nests && layUpOf(drawing, layer).fill.kind !== 'nest')
      dispatch(setLayUp, { film: layer, fields: { fill: NEST } }, { origin: 'sheet.set' });
    void navigate(`/jobs/${job.id}/layup`);
  };
  return (
    <Card title="On the material" startsOpen={false}>
      <p className="text-[13px] text-ink-soft">How this lies on its material is set on Lay up. Nothing moves on the drawing.</p>
      <div className="flex gap-1.5">
        <Button size="small" className="flex-1" disabled={!layer} onClick={() => go(false)}>
          Lay up
        </Button>
        <Button size="small" className="flex-1" disabled={!layer} onClick={() => go(true)}>
          Nest there
        </Button>
      </div>
      {layer ? null : <p className="text-[13px] text-ink-soft">Give it a film or a print first.</p>}
    </Card>
  );
}
