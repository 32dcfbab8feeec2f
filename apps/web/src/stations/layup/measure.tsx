/** The measure line on Lay up: the place of what is chosen on its sheet, or the sheet itself; never the drawing's surface. */
import { pageOf } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { useMemo } from 'react';
import { useSheets } from '../../document/sheets.ts';
import { useDocument } from '../../document/store.ts';
import { LengthField } from '../../ui/fields.tsx';
import { useActiveSheet } from './active.ts';
import { movePieces, useLaying } from './laying.ts';
import { shownSheets, useNestSearch } from './nest-search.ts';
import { boxOfPieces, chosenPieces } from './pieces.ts';

export function LayUpMeasure() {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const sheets = useSheets((state) => state.sheets);
  const busy = useSheets((state) => state.busy);
  const chosen = useLaying((state) => state.chosen);
  const laid = useActiveSheet();
  const search = useNestSearch();
  const isFound = search.answer !== undefined && search.layer === laid?.layer.id;
  // what is shown is told: a nest that is looked at has places and a length of its own
  const sheet = useMemo(
    () => (isFound && laid ? (shownSheets(sheets, search).find(({ id }) => id === laid.id) ?? laid) : laid),
    [isFound, laid, search, sheets],
  );
  const pieces = chosenPieces(sheets, chosen).filter((piece) => piece.sheet.id === sheet?.id);
  const box = boxOfPieces(pieces);
  const say = (mm: number): string => describeLength(Math.round(mm * 10) / 10, unit);
  if (!sheet) return <span className="text-ink-soft">{busy ? 'Working out…' : 'No material yet'}</span>;
  if (!box)
    return (
      <>
        <span className="rule-label">Material</span>
        <span className="max-w-64 truncate">
          {sheet.layer.series} {sheet.layer.name}
          {sheet.of > 1 ? `, sheet ${sheet.number + 1} of ${sheet.of}` : ''}
        </span>
        <span className="numerals">{say(sheet.material.widthMm)} wide</span>
        <span className="numerals">
          {say(sheet.usedLengthMm)} {isFound ? 'used by this nest' : 'used'}
        </span>
        <span className="numerals text-ink-soft">margins {say(sheet.layUp.marginMm)}</span>
      </>
    );
  return (
    <>
      <span className="max-w-48 truncate">{pieces.length === 1 ? pieces[0]?.part.name : `${pieces.length} pieces`}</span>
      <div className="w-[120px]">
        <LengthField label="Along the sheet" short="X" mm={box.minX} unit={unit} onChange={(x) => movePieces(pieces, x - box.minX, 0)} />
      </div>
      <div className="w-[120px]">
        <LengthField label="Across the sheet" short="Y" mm={box.minY} unit={unit} onChange={(y) => movePieces(pieces, 0, y - box.minY)} />
      </div>
      <span className="numerals text-ink-soft">
        {say(box.maxX - box.minX)} × {say(box.maxY - box.minY)}
      </span>
    </>
  );
}
