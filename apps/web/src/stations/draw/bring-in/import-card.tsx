/** The import report on the ticket: what came in and was changed; the file's colours and the films they are cut from. */
import { itemOf, layerOf, pageOf } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { useState } from 'react';
import { toast } from 'sonner';
import { layInLayers, type WholePart } from '../../../document/stacking.ts';
import { useDocument } from '../../../document/store.ts';
import { Button } from '../../../ui/button.tsx';
import { Card, Figure } from '../../../ui/card.tsx';
import { ColourReport } from './colour-report.tsx';
import { keepReport, putAway, useReports, type Report } from '../../../document/import-reports.ts';
import { tellFailure } from '../../../ui/tell.ts';

/** Films as they lie on one another, seen from the side. */
function Side({
  rows,
  label,
  flat = false,
}: {
  rows: readonly (readonly [hex: string, from: number, to: number])[];
  label: string;
  flat?: boolean;
}) {
  return (
    <svg viewBox="0 0 100 24" role="img" aria-label={label} className="h-8 w-full">
      <rect x="0" y="21" width="100" height="3" fill="#c9c1ae" />
      {rows.map(([hex, from, to], i) => (
        <rect key={i} x={from} y={16 - (flat ? 0 : 5 * i)} width={to - from} height="4" fill={hex} stroke="#16202e" strokeWidth="0.4" />
      ))}
    </svg>
  );
}

/** The other way out of a knot: the parts whole, a film in a layer for each place that it has in the stack. */
function Layers({ id, report, whole }: { id: string; report: Report; whole: readonly WholePart[] }) {
  const drawing = useDocument((state) => state.drawing);
  const [isBusy, setBusy] = useState(false);
  const present = whole.flatMap((part) => itemOf(drawing, part.id) ?? []);
  const cut = whole.flatMap(({ id: one, isCut }) => (isCut ? (itemOf(drawing, one) ?? []) : []));
  if (cut.length === 0 || present.some(({ layer }) => layer === null)) return null;
  const [low = '#c4281f', high = '#ffffff'] = [...new Set(present.map(({ layer }) => layerOf(drawing, layer)?.hex ?? '#888888'))];
  const lay = async (): Promise<void> => {
    setBusy(true);
    try {
      toast.info(await layInLayers(whole));
      const { whole: _whole, ...rest } = report;
      keepReport(id, rest);
    } catch (error) {
      tellFailure(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="flex flex-col gap-1.5 border-t pt-1.5">
      <div className="grid grid-cols-2 gap-2 text-[13px]">
        <span>
          <Side
            label="Cut out of one another"
            flat
            rows={[
              [low, 8, 28],
              [high, 28, 42],
              [low, 42, 58],
              [high, 58, 72],
              [low, 72, 92],
            ]}
          />
          Now: cut out of one another, one film thick
        </span>
        <span>
          <Side
            label="Whole, in layers"
            rows={[
              [low, 8, 92],
              [high, 28, 72],
              [low, 42, 58],
            ]}
          />
          Or whole, one on another in layers
        </span>
      </div>
      <Button size="small" disabled={isBusy} onClick={() => void lay()}>
        {isBusy ? 'Laying…' : 'Lay them whole, in layers'}
      </Button>
    </div>
  );
}

export function ImportCard({ id }: { id: string }) {
  const report = useReports((state) => state.reports[id]);
  const { unit } = pageOf(useDocument((state) => state.drawing));
  if (!report) return null;
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return (
    <Card title="Import report">
      <p className="font-medium break-words">{report.file}</p>
      <Figure name="Page">
        {say(report.widthMm)} × {say(report.heightMm)}
      </Figure>
      <Figure name="Parts">{report.parts}</Figure>
      {report.remarks.map(({ code, text, count }) => (
        <p key={code} className="border-l-4 border-amber bg-amber-wash px-2 py-1 text-[13px] break-words">
          {text}
          {count > 1 ? ` (${count} times)` : ''}
        </p>
      ))}
      {report.whole ? <Layers id={id} report={report} whole={report.whole} /> : null}
      <ColourReport report={report} />
      <Button size="small" onClick={() => putAway(id)}>
        Put the report away
      </Button>
    </Card>
  );
}
