/** The Cut check: a chip with the count, and the list; each row goes to its place and offers its remedy. */
import { invert, mapPoint, growBox, type Box } from '@lorvek/core/geometry';
import { describeLength } from '@lorvek/core/units';
import type { FindingCode } from '@lorvek/core/check';
import { pageOf, itemOf } from '@lorvek/model';
import { placeOfFinding } from '@lorvek/model/lay-places';
import { CheckCircle2, Loader2, OctagonAlert, TriangleAlert } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { useSheets, type LocatedFinding } from '../document/sheets.ts';
import { select, useDocument } from '../document/store.ts';
import { boxOf } from '../drawing/selection.ts';
import { fitBox, flashAt, useView } from '../drawing/view.ts';
import { Button } from '../ui/button.tsx';
import { remedy, remedyFor } from './remedies.ts';

/** The finding's place on the drawing: its own, led back through the laying up, or its items'. */
export function placeOnDrawing({ finding, sheet }: LocatedFinding): Box | undefined {
  const { drawing } = useDocument.getState();
  const items = finding.parts.filter((id) => itemOf(drawing, id));
  const whole = boxOf(drawing, items);
  if (!sheet) return finding.box ?? whole;
  const map = placeOfFinding(sheet, finding);
  const back = map && invert(map);
  if (finding.place && back && finding.code !== 'off-material') {
    const p = mapPoint(back, finding.place);
    const reach = whole ? Math.max(8, 0.06 * (whole.maxX - whole.minX)) : 20;
    return growBox({ minX: p.x, maxX: p.x, minY: p.y, maxY: p.y }, reach);
  }
  return whole;
}

function showFinding(located: LocatedFinding): void {
  const { drawing } = useDocument.getState();
  select(located.finding.parts.filter((id) => itemOf(drawing, id)));
  const box = placeOnDrawing(located);
  if (!box) return;
  fitBox('drawing', growBox(box, 0.5 * Math.max(box.maxX - box.minX, box.maxY - box.minY)));
  flashAt(box);
}

/** What lies wrong on the material is seen on Lay up, all else on the drawing. */
const ON_MATERIAL: ReadonlySet<FindingCode> = new Set([
  'off-material',
  'in-margin',
  'lies-on-another',
  'grain-broken',
  'no-place',
  'nest-old',
  'roll-short',
  'no-roll',
  'marks',
  'panels',
]);
const isOnMaterial = ({ finding, sheet }: LocatedFinding): boolean => sheet !== undefined && ON_MATERIAL.has(finding.code);

/** Goes to where a finding is seen. */
export function useGoToFinding(): (located: LocatedFinding) => void {
  const jobId = useDocument((state) => state.job?.id ?? '');
  const navigate = useNavigate();
  return (located) => {
    if (isOnMaterial(located)) {
      const { sheet, finding } = located;
      useView.setState({ film: sheet?.layer.id, wanted: sheet && finding.place ? { sheet: sheet.id, place: finding.place } : undefined });
      void navigate(`/jobs/${jobId}/layup`);
      return;
    }
    void navigate(`/jobs/${jobId}/draw`);
    setTimeout(() => showFinding(located), 60);
  };
}

export function FindingRow({ located, onGo }: { located: LocatedFinding; onGo(): void }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const { finding, sheet } = located;
  const how = remedyFor(finding.code);
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
          {sheet ? `${sheet.layer.series} ${sheet.layer.name}` : 'On the drawing'}
          {finding.place
            ? ` · at ${describeLength(finding.place.x, unit)}, ${describeLength(finding.place.y, unit)}${sheet ? ' on the sheet' : ''}`
            : ''}
        </p>
        <div className="mt-1 flex gap-1.5">
          {finding.parts.length > 0 || isOnMaterial(located) ? (
            <Button size="small" onClick={onGo}>
              Show the place
            </Button>
          ) : null}
          {how ? (
            <Button size="small" onClick={() => remedy([located])}>
              {how.name}
            </Button>
          ) : null}
        </div>
      </div>
    </li>
  );
}

const KIND_NAMES: Record<FindingCode, string> = {
  'nothing-to-cut': 'Nothing to cut',
  'open-outline': 'Open outlines',
  crossing: 'Crossings',
  doubled: 'Doubled lines',
  'off-material': 'Off the material',
  'tiny-part': 'Tiny parts',
  'thin-part': 'Too thin',
  'thin-gap': 'Narrow gaps',
  'many-nodes': 'Too many nodes',
  bump: 'Bumps',
  hidden: 'Hidden parts',
  'off-drawing': 'Off the drawing',
  'film-missing': 'Without a film',
  'coarse-picture': 'Coarse pictures',
  'missing-letters': 'Missing letters',
  'not-worked-out': 'Not worked out',
  'not-listed': 'Not listed',
  'no-roll': 'No roll',
  'edge-cut-empty': 'Edge cuts without a line',
  marks: 'Registration marks',
  'nothing-printed': 'Nothing printed',
  'no-cut-line': 'Printed, not cut',
  'printed-nowhere': 'On no print',
  'opaque-ground': 'Pictures with a ground',
  'inside-same-film': 'Hidden lines in one film',
  island: 'Islands within counters',
  'build-sliver': 'Strips between films',
  'trap-wide': 'Trap wider than the part',
  'in-margin': 'In the margin',
  'lies-on-another': 'On one another',
  'grain-broken': 'Against the grain',
  'no-place': 'Without a place',
  'nest-old': 'Old nests',
  'roll-short': 'Rolls too short',
  'same-colour': 'Films of one colour',
  series: 'Series',
  'row-empty': 'Empty cells',
  'row-too-long': 'Names too long',
  'row-letters': 'Letters a row lacks',
  'row-picture': 'Pictures a row lacks',
  'row-doubled': 'Rows twice',
  'field-gone': 'Fields without an item',
  'column-gone': 'Columns that are gone',
  'counter-over': 'Counter over its padding',
  panels: 'Panels',
  'seam-crosses': 'Seams through items',
  'edge-into-art': 'Edge cuts into the art',
  'lines-meet': 'Cut lines that meet',
  'edge-small': 'Pieces too small to hold',
  'bleed-missing': 'Bleed missing',
  'edge-sharp': 'Corners too sharp',
  'no-bridges': 'No holding bridges',
  'no-white': 'No white under the print',
  passes: 'Passes of a print',
};

/** Findings of each kind, those that stop the job first. */
function byKind(found: readonly LocatedFinding[]): [FindingCode, LocatedFinding[]][] {
  const kinds = new Map<FindingCode, LocatedFinding[]>();
  for (const one of found) kinds.set(one.finding.code, [...(kinds.get(one.finding.code) ?? []), one]);
  const stops = (list: readonly LocatedFinding[]): number => (list.some(({ finding }) => finding.level === 'stop') ? 0 : 1);
  return [...kinds].sort((a, b) => stops(a[1]) - stops(b[1]));
}

const MOST_ROWS = 60;

/** While it is worked out: how far it is, never a zero. */
export const workingText = (share: number): string => (share > 0.005 ? `Working out… ${Math.round(100 * share)} %` : 'Working out…');

function FindingList({ found, onGo }: { found: readonly LocatedFinding[]; onGo(located: LocatedFinding): void }) {
  const kinds = byKind(found);
  const [only, setOnly] = useState<FindingCode>();
  const shown = kinds.filter(([code]) => only === undefined || !kinds.some(([other]) => other === only) || code === only);
  return (
    <>
      {kinds.length > 1 ? (
        <div role="group" aria-label="Kinds of findings" className="flex flex-wrap gap-1 border-b px-2.5 py-1.5">
          {kinds.map(([code, list]) => (
            <button
              key={code}
              type="button"
              aria-pressed={only === code}
              onClick={() => setOnly(only === code ? undefined : code)}
              className="border border-line-strong px-1.5 py-0.5 text-xs hover:bg-teal-wash aria-pressed:border-teal aria-pressed:bg-teal aria-pressed:text-sheet"
            >
              {KIND_NAMES[code]} <span className="numerals">{list.length}</span>
            </button>
          ))}
        </div>
      ) : null}
      {shown.map(([code, list]) => {
        const how = remedyFor(code);
        return (
          <section key={code} aria-label={KIND_NAMES[code]}>
            <div className="flex items-center justify-between gap-2 border-b bg-ground px-2.5 py-1">
              <h3 className="rule-label">{KIND_NAMES[code]}</h3>
              {how && list.length > 1 ? (
                <Button size="small" onClick={() => remedy(list)}>
                  {how.all} {list.length}
                </Button>
              ) : null}
            </div>
            <ul>
              {list.slice(0, MOST_ROWS).map((located, i) => (
                <FindingRow key={i} located={located} onGo={() => onGo(located)} />
              ))}
            </ul>
            {list.length > MOST_ROWS ? <p className="px-2.5 py-1 text-xs text-ink-soft">and {list.length - MOST_ROWS} more</p> : null}
          </section>
        );
      })}
    </>
  );
}

interface Chip {
  readonly look: string;
  readonly name: string;
  readonly text: string;
}

/** What the chip says; while nothing is known it claims nothing. */
function chipOf(state: { found: number; stops: number; working: boolean; share: number; error: string | undefined }): Chip {
  const { found, stops, working, share, error } = state;
  if (working) return { look: 'border-line-strong bg-sheet text-ink-soft', name: `Cut check: ${workingText(share)}`, text: 'Working…' };
  const stop = 'border-brick text-brick bg-brick-wash';
  if (error) return { look: stop, name: 'Cut check: could not be done', text: 'Not checked' };
  const look = stops > 0 ? stop : found > 0 ? 'border-amber text-amber bg-amber-wash' : 'border-line-strong bg-sheet';
  const count = `${found} ${found === 1 ? 'finding' : 'findings'}`;
  return { look, name: `Cut check: ${found} findings`, text: found === 0 ? 'Cut check' : count };
}

/** The chip at the lower right of a station's drawing. Rolls are chosen at Lay up; before that, that none is chosen is no finding. */
export function FindingsChip({ withRolls = false }: { withRolls?: boolean }) {
  const { sheets, found: all, busy, unknown, share, error } = useSheets();
  const goTo = useGoToFinding();
  const [open, setOpen] = useState(false);
  const found = all.filter(({ finding }) => withRolls || finding.code !== 'no-roll');
  const stops = found.filter(({ finding }) => finding.level === 'stop').length;
  const working = unknown && !error;
  const { look, name, text } = chipOf({ found: found.length, stops, working, share, error });
  const go = (located: LocatedFinding): void => {
    setOpen(false);
    goTo(located);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        className={`absolute right-3 bottom-3 z-10 flex h-10 items-center gap-2 border px-3 ${look} ${busy ? 'opacity-80' : ''}`}
        aria-label={name}
      >
        {working || (busy && !error) ? (
          <Loader2 size={16} className="animate-spin" aria-hidden />
        ) : found.length > 0 || error ? (
          <TriangleAlert size={16} aria-hidden />
        ) : (
          <CheckCircle2 size={16} className="text-teal" aria-hidden />
        )}
        <span className="numerals text-[13px]">{text}</span>
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
          {working ? <p className="p-2.5 text-ink-soft">{workingText(share)}</p> : null}
          {found.length === 0 && !error && !working ? (
            <p className="p-2.5 text-ink-soft">
              {sheets.length === 0 ? 'Nothing on the drawing is cut from a film yet.' : 'Nothing was found that would go wrong.'}
            </p>
          ) : null}
          <FindingList found={found} onGo={go} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
