/** The Cut check: a chip with the count, and the list; each row goes to its place and offers its remedy. */
import { invert, mapPoint, growBox, type Box } from '@lorvek/core/geometry';
import { describeLength } from '@lorvek/core/units';
import { pageOf, replaceItems, itemOf, type ShapeItem } from '@lorvek/model';
import { CheckCircle2, OctagonAlert, TriangleAlert } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { sentenceOf } from '../api/client.ts';
import { findingsOf, useSheets, type LocatedFinding } from '../document/sheets.ts';
import { dispatch, newId, select, useDocument } from '../document/store.ts';
import { frameOf } from '../drawing/selection.ts';
import { fitBox, flashAt } from '../drawing/view.ts';
import { Button } from '../ui/button.tsx';
import { weldFamily } from '../document/weld.ts';

/** The finding's place on the drawing: its own, led back through the laying up, or its items'. */
export function placeOnDrawing({ finding, sheet }: LocatedFinding): Box | undefined {
  const { drawing } = useDocument.getState();
  const items = finding.parts.filter((id) => itemOf(drawing, id));
  const whole = frameOf(drawing, [...items, '']);
  const back = invert(sheet.laid.placing);
  if (finding.place && back && finding.code !== 'off-material') {
    const p = mapPoint(back, finding.place);
    const reach = whole ? Math.max(8, 0.06 * (whole.box.maxX - whole.box.minX)) : 20;
    return growBox({ minX: p.x, maxX: p.x, minY: p.y, maxY: p.y }, reach);
  }
  return whole?.box;
}

export function showFinding(located: LocatedFinding): void {
  const { drawing } = useDocument.getState();
  select(located.finding.parts.filter((id) => itemOf(drawing, id)));
  const box = placeOnDrawing(located);
  if (!box) return;
  fitBox('drawing', growBox(box, 0.5 * Math.max(box.maxX - box.minX, box.maxY - box.minY)));
  flashAt(box);
}

async function weldFinding(located: LocatedFinding): Promise<void> {
  const { drawing } = useDocument.getState();
  const ids = located.finding.parts.filter((id) => itemOf(drawing, id));
  try {
    const items = (await weldFamily('weld', drawing, ids, pageOf(drawing).films)).map((shape): ShapeItem => ({
      ...shape,
      id: newId('item'),
    }));
    if (dispatch(replaceItems, { ids, items }, { origin: 'item.weld' })) toast.success('Welded into one shape. Undo gives the items back.');
  } catch (error) {
    toast.error(sentenceOf(error));
  }
}

const canWeld = ({ finding }: LocatedFinding): boolean => finding.code === 'crossing' || finding.code === 'doubled';

export function FindingRow({ located, onGo }: { located: LocatedFinding; onGo(): void }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const { finding, sheet } = located;
  const Icon = finding.level === 'stop' ? OctagonAlert : TriangleAlert;
  return (
    <li className="flex items-start gap-2 border-b px-2.5 py-2 last:border-b-0">
      <Icon
        size={16}
        className={`mt-0.5 shrink-0 ${finding.level === 'stop' ? 'text-brick' : 'text-amber'}`}
        aria-label={finding.level === 'stop' ? 'Stop' : 'Warning'}
      />
      <div className="min-w-0 flex-1">
        <p>{finding.text}</p>
        <p className="text-xs text-ink-soft">
          {sheet.film.series} {sheet.film.name}
          {finding.place ? ` · at ${describeLength(finding.place.x, unit)}, ${describeLength(finding.place.y, unit)} on the sheet` : ''}
        </p>
        <div className="mt-1 flex gap-1.5">
          {finding.parts.length > 0 ? (
            <Button size="small" onClick={onGo}>
              Show the place
            </Button>
          ) : null}
          {canWeld(located) ? (
            <Button size="small" onClick={() => void weldFinding(located)}>
              Weld
            </Button>
          ) : null}
        </div>
      </div>
    </li>
  );
}

/** The chip at the lower right of every station's drawing. */
export function FindingsChip() {
  const { sheets, busy, error } = useSheets();
  const job = useDocument((state) => state.job);
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  const found = findingsOf(sheets);
  const stops = found.filter(({ finding }) => finding.level === 'stop').length;
  const look =
    stops > 0
      ? 'border-brick text-brick bg-brick-wash'
      : found.length > 0
        ? 'border-amber text-amber bg-amber-wash'
        : 'border-line-strong bg-sheet';
  const go = (located: LocatedFinding): void => {
    setOpen(false);
    void navigate(`/jobs/${job?.id ?? ''}/draw`);
    setTimeout(() => showFinding(located), 60);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        className={`absolute right-3 bottom-3 z-10 flex h-10 items-center gap-2 border px-3 ${look} ${busy ? 'opacity-80' : ''}`}
        aria-label={`Cut check: ${found.length} findings`}
      >
        {found.length > 0 ? <TriangleAlert size={16} aria-hidden /> : <CheckCircle2 size={16} className="text-teal" aria-hidden />}
        <span className="numerals text-[13px]">
          {found.length === 0 ? 'Cut check' : `${found.length} ${found.length === 1 ? 'finding' : 'findings'}`}
        </span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="end"
          sideOffset={6}
          className="z-50 max-h-[440px] w-[380px] overflow-y-auto border border-line-strong bg-sheet shadow-md"
        >
          <h2 className="border-b px-2.5 py-2 font-semibold">Cut check</h2>
          {error ? <p className="p-2.5 text-brick">{error}</p> : null}
          {found.length === 0 && !error ? (
            <p className="p-2.5 text-ink-soft">
              {sheets.length === 0 ? 'Nothing on the drawing is cut from a film yet.' : 'Nothing was found that would go wrong.'}
            </p>
          ) : null}
          <ul>
            {found.map((located, i) => (
              <FindingRow key={i} located={located} onGo={() => go(located)} />
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
