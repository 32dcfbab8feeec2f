/** The import report on the ticket: what came in and was changed; the file's colours and the films they are cut from. */
import { pageOf } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { useDocument } from '../../../document/store.ts';
import { Button } from '../../../ui/button.tsx';
import { Card, Figure } from '../../../ui/card.tsx';
import { ColourReport } from './colour-report.tsx';
import { putAway, useReports } from '../../../document/import-reports.ts';

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
      <ColourReport report={report} />
      <Button size="small" onClick={() => putAway(id)}>
        Put the report away
      </Button>
    </Card>
  );
}
