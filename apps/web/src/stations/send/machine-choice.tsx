/** What of the sheets does not go onto the machines, with the way out; the paper of a desk printer. */
import { layUpOf, setLayUp, type Machine, type MarkKind, type PaperChoice, type Papers } from '@lorvek/model';
import type { Misfit } from '@lorvek/model/machine-fit';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { Loader2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { api } from '../../api/client.ts';
import { dispatch, useDocument } from '../../document/store.ts';
import { Button } from '../../ui/button.tsx';
import { Notice } from '../../ui/card.tsx';
import { Pick } from '../../ui/pick.tsx';

/** Gives every sheet that has marks other ones. */
function takeMarks(sheets: readonly SheetPlan[], kind: MarkKind): void {
  const { drawing } = useDocument.getState();
  for (const layer of new Set(sheets.filter(({ marks }) => marks.length > 0).map((sheet) => sheet.layer.id))) {
    const own = layUpOf(drawing, layer).marks ?? sheets.find((sheet) => sheet.layer.id === layer)?.markSettings?.marks;
    if (own) dispatch(setLayUp, { film: layer, fields: { marks: { ...own, kind } } }, { origin: 'sheet.set' });
  }
}

export function Misfits({ misfits, sheets }: { misfits: readonly Misfit[]; sheets: readonly SheetPlan[] }) {
  return misfits.map(({ level, text, marks }) => (
    <Notice key={text} level={level}>
      <span className="flex flex-col items-start gap-1">
        {text}
        {marks ? (
          <Button size="small" onClick={() => takeMarks(sheets, marks)}>
            Take those
          </Button>
        ) : null}
      </span>
    </Notice>
  ));
}

const paperText = (name: string): string => /_([a-z0-9.-]+)_/i.exec(name)?.[1]?.replaceAll('-', ' ').toUpperCase() ?? name;
const NO_TRAY = 'by-itself';

interface PaperPickProps {
  readonly machine: Machine;
  readonly paper: PaperChoice | undefined;
  onPaper(paper: PaperChoice): void;
}

export function PaperPick({ machine, paper, onPaper }: PaperPickProps) {
  const [has, setHas] = useState<Papers>();
  useEffect(() => {
    let current = true;
    void api.papers(machine.id).then(
      (found) => current && setHas(found),
      () => current && setHas({ papers: [], trays: [], usual: null, marginMm: 0, text: `${machine.name} could not be asked.` }),
    );
    return () => {
      current = false;
    };
  }, [machine]);
  if (!has)
    return (
      <p className="flex items-center gap-2 text-ink-soft">
        <Loader2 size={15} className="animate-spin" /> Asking for its paper…
      </p>
    );
  if (has.papers.length === 0) return <Notice level="warning">{has.text}</Notice>;
  const name = paper?.name ?? has.usual ?? has.papers[0]?.name ?? '';
  return (
    <div className="grid grid-cols-2 gap-2">
      <Pick
        label="Paper"
        value={name}
        options={has.papers.map((one) => ({
          value: one.name,
          text: `${paperText(one.name)} · ${Math.round(one.widthMm)} × ${Math.round(one.heightMm)}${one.ready ? '' : ' (not loaded)'}`,
        }))}
        onChange={(next) => onPaper({ name: next, tray: paper?.tray ?? null })}
      />
      <Pick
        label="Tray"
        value={paper?.tray ?? NO_TRAY}
        options={[{ value: NO_TRAY, text: 'by itself' }, ...has.trays.map((tray) => ({ value: tray, text: tray }))]}
        onChange={(tray) => onPaper({ name, tray: tray === NO_TRAY ? null : tray })}
      />
      <p className="col-span-2 text-[13px] text-ink-soft">
        What is larger than the paper comes on several, with marks where they meet. Cut lines and white are left out.
      </p>
    </div>
  );
}
