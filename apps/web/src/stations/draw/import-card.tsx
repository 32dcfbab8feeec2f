/** Bringing in a drawing of another program: placed at true size as a group, with a report of what was changed. */
import { addItems, filmOf, filmsOf, itemOf, pageOf, setFilmOfItems, type GroupItem, type PictureItem, type ShapeItem } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import type { Point } from '@lorvek/core/geometry';
import { toast } from 'sonner';
import { create } from 'zustand';
import { api, sentenceOf } from '../../api/client.ts';
import { dispatch, newId, select, useDocument } from '../../document/store.ts';
import { askAside } from '../../worker/compute.ts';
import type { Imported } from '../../worker/import-ops.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { FilmOfTreatment } from './treatments/fields.tsx';

interface Report extends Omit<Imported, 'shapes' | 'pictures' | 'hexes'> {
  readonly file: string;
  readonly parts: number;
  /** Items of each colour, to give them another film at once. */
  readonly byColour: ReadonlyMap<string, readonly string[]>;
}

/** Reports by the item that came in, while the page is open. */
const useReports = create<{ reports: ReadonlyMap<string, Report> }>(() => ({ reports: new Map() }));

const MOST_PARTS = 49_000;

async function picturesOf(imported: Imported, file: string): Promise<PictureItem[]> {
  const out: PictureItem[] = [];
  for (const picture of imported.pictures) {
    const bytes = Uint8Array.from(atob(picture.bytesBase64), (c) => c.charCodeAt(0));
    const asset = await api.addPicture(new File([bytes], file, { type: picture.type }));
    const [a, b, c, d, e, f] = picture.matrix;
    const { widthPx, heightPx } = asset;
    const mmPerPx = Math.hypot(a, b) / widthPx;
    const k = 1 / mmPerPx;
    out.push({
      type: 'item',
      kind: 'picture',
      id: newId('item'),
      name: `Picture of ${file}`.slice(0, 120),
      film: null,
      matrix: [(a * k) / widthPx, (b * k) / widthPx, (c * k) / heightPx, (d * k) / heightPx, e, f],
      asset: asset.asset,
      widthPx,
      heightPx,
      mmPerPx,
      strengthPct: 100,
      locked: false,
    });
  }
  return out;
}

/** Reads an SVG and lays it on the drawing, its lower left corner at a place (or at the surface's corner). */
export async function importDrawing(file: File, at: Point = { x: 0, y: 0 }): Promise<void> {
  const { drawing } = useDocument.getState();
  const films = filmsOf(drawing).map(({ id, hex }) => ({ id, hex }));
  const waiting = toast.loading(`Reading “${file.name}”…`);
  try {
    const imported = await askAside('import-svg', { bytes: new Uint8Array(await file.arrayBuffer()), films });
    if (imported.shapes.length > MOST_PARTS)
      throw new Error(`It has ${imported.shapes.length} parts; ${MOST_PARTS} are the most in one group.`);
    const move = <T extends ShapeItem | PictureItem>(item: T): T => {
      const [a, b, c, d, e, f] = item.matrix;
      return { ...item, matrix: [a, b, c, d, e + Math.round(at.x), f + Math.round(at.y)] };
    };
    const shapes = imported.shapes.map((shape): ShapeItem => move({ ...shape, id: newId('item') }));
    const items = [...(await picturesOf(imported, file.name)).map(move), ...shapes];
    place(file, imported, items, shapes);
  } catch (error) {
    toast.error(`“${file.name}”: ${sentenceOf(error)}`);
  } finally {
    toast.dismiss(waiting);
  }
}

function place(file: File, imported: Imported, items: readonly (ShapeItem | PictureItem)[], shapes: readonly ShapeItem[]): void {
  const [only] = items;
  if (!only) {
    toast.warning(`“${file.name}” holds nothing that could be brought in.`);
    return;
  }
  const group: GroupItem = {
    type: 'item',
    kind: 'group',
    id: newId('item'),
    name: file.name.replace(/\.[a-z0-9]+$/i, '').slice(0, 120) || 'Drawing',
    film: null,
    matrix: [1, 0, 0, 1, 0, 0],
    children: items.map((item) => item.id),
  };
  const all = items.length > 1 ? [...items, group] : items;
  const root = items.length > 1 ? group.id : only.id;
  if (!dispatch(addItems, { items: all, roots: [root] }, { origin: 'file.import' })) return;
  const byColour = new Map<string, string[]>();
  shapes.forEach((shape, i) => {
    const hex = imported.hexes[i] ?? '';
    byColour.set(hex, [...(byColour.get(hex) ?? []), shape.id]);
  });
  const { shapes: _shapes, pictures: _pictures, hexes: _hexes, ...rest } = imported;
  const report: Report = { ...rest, file: file.name, parts: items.length, byColour };
  useReports.setState(({ reports }) => ({ reports: new Map([...reports, [root, report]]) }));
  select([root]);
}

export function ImportCard({ id }: { id: string }) {
  const report = useReports((state) => state.reports.get(id));
  const drawing = useDocument((state) => state.drawing);
  const { unit } = pageOf(drawing);
  if (!report) return null;
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return (
    <Card title="Import report">
      <Figure name="From">{report.file}</Figure>
      <Figure name="Page">
        {say(report.widthMm)} × {say(report.heightMm)}
      </Figure>
      <Figure name="Parts">{report.parts}</Figure>
      {report.hasSize ? null : (
        <Notice level="warning">The file does not state its size; 96 px were taken as an inch. Check the width above.</Notice>
      )}
      {report.colours.map(({ hex, count, difference, film }) => {
        const ids = (report.byColour.get(hex) ?? []).filter((item) => itemOf(drawing, item));
        const first = itemOf(drawing, ids[0] ?? '');
        return (
          <div key={hex} className="flex flex-col gap-1 border-t pt-1.5">
            <div className="flex items-center gap-2 text-[13px]">
              <span className="size-5 shrink-0 border border-line-strong" style={{ background: hex }} />
              <span className="numerals">{hex}</span>
              <span className="flex-1 text-right text-ink-soft">
                {count} {count === 1 ? 'part' : 'parts'}
                {film && filmOf(drawing, film) ? `, ΔE ${difference.toFixed(0)}` : ''}
              </span>
            </div>
            <FilmOfTreatment
              film={first?.film ?? null}
              onChange={(next) => dispatch(setFilmOfItems, { ids, film: next }, { origin: 'item.film' })}
            />
          </div>
        );
      })}
      {report.report.map(({ code, text, count }) => (
        <p key={code} className="border-l-4 border-amber bg-amber-wash px-2 py-1 text-[13px]">
          {text}
          {count > 1 ? ` (${count} times)` : ''}
        </p>
      ))}
      <Button
        size="small"
        onClick={() => useReports.setState(({ reports }) => ({ reports: new Map([...reports].filter(([key]) => key !== id)) }))}
      >
        Put the report away
      </Button>
    </Card>
  );
}
