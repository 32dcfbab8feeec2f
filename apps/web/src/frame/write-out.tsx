/** Writing the drawing to a file: what, in which format, how fine; and the job's papers. */
import { filmsOf, leftOutOf, pageOf, type Drawing, type FileFormat, type LeftOut, type ShopSettings, type StockFilm } from '@lorvek/model';
import { useState } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../api/client.ts';
import { useShop } from '../api/shop.ts';
import { useDocument } from '../document/store.ts';
import { dimensionLine, dimensionsOf } from '../drawing/dimensions.ts';
import { Button } from '../ui/button.tsx';
import { Notice } from '../ui/card.tsx';
import { PickRow } from '../ui/choices.tsx';
import { Pick } from '../ui/pick.tsx';
import { Dialog } from '../ui/dialog.tsx';
import { NumberField } from '../ui/fields.tsx';
import { several } from '../ui/several.ts';
import { askAside } from '../worker/compute.ts';
import { useDialogs } from './dialogs-open.ts';
import type { WrittenKind } from '@lorvek/computations';

const close = (): void => useDialogs.setState({ writeOut: false });

const KINDS: readonly { value: WrittenKind; label: string; content: string; ending: string; type: string; says: string }[] = [
  {
    value: 'svg',
    label: 'SVG, true mm, a layer a film',
    content: 'SVG',
    ending: 'svg',
    type: 'image/svg+xml',
    says: 'True size in mm, a layer for each film.',
  },
  {
    value: 'pdf',
    label: 'PDF',
    content: 'PDF',
    ending: 'pdf',
    type: 'application/pdf',
    says: 'One page at true size, a layer for each film.',
  },
  {
    value: 'dxf',
    label: 'DXF',
    content: 'DXF',
    ending: 'dxf',
    type: 'image/vnd.dxf',
    says: 'In mm, polylines and splines, a layer for each film.',
  },
  {
    value: 'hpgl',
    label: 'Plotter file',
    content: 'Plotter',
    ending: 'plt',
    type: 'application/octet-stream',
    says: 'Outlines as they are, a pen for each film; not corrected for a blade.',
  },
  {
    value: 'png',
    label: 'PNG picture',
    content: 'PNG',
    ending: 'png',
    type: 'image/png',
    says: 'A picture; the ground is left clear when only a part is written.',
  },
];

const PAPERS = {
  proof: { ending: 'proof.pdf', says: 'For the customer: the drawing to scale with its dimensions, films and a line to sign.' },
  ticket: { ending: 'ticket.pdf', says: 'For the shop: films, sizes, steps and press recipes.' },
  'fitting-plan': { ending: 'fitting-plan.pdf', says: 'For putting up panels: the whole with their numbers, sizes, overlaps and order.' },
} as const;
const PAPER_NAMES = { proof: 'Proof', ticket: 'Work ticket', 'fitting-plan': 'Fitting plan' } as const;

const fileName = (name: string, ending: string): string => `${name.replace(/[^\p{L}\p{N} ._-]+/gu, '').trim() || 'drawing'}.${ending}`;

function save(bytes: Uint8Array, name: string, type: string): void {
  const url = URL.createObjectURL(new Blob([bytes as Uint8Array<ArrayBuffer>], { type }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 10_000);
}

/** What papers stand on; asked for again when it did not come. @throws AppError when the server does not give it */
async function knownShop(): Promise<{ stock: readonly StockFilm[]; settings: ShopSettings }> {
  const { stock, settings } = useShop.getState();
  return { stock: stock ?? (await api.stock()), settings: settings ?? (await api.settings()) };
}

/** Works a file out and hands it to the browser; a failure is said. */
async function write(
  kind: WrittenKind,
  scope: { ids?: readonly string[]; film?: string },
  dpi: number,
  ending: string,
  type: string,
): Promise<void> {
  const { drawing, job } = useDocument.getState();
  if (!job) return;
  const waiting = toast.loading('Writing the file…');
  try {
    const { stock, settings } = await knownShop();
    const bytes = await askAside('write-out', {
      kind,
      drawing,
      scope,
      job,
      stock,
      settings,
      dimensions: dimensionsOf(drawing).map((item) => dimensionLine(drawing, item)),
      dpi,
      today: new Date().toISOString().slice(0, 10),
    });
    save(bytes, fileName(job.name, ending), type);
    close();
  } catch (error) {
    toast.error(sentenceOf(error));
  } finally {
    toast.dismiss(waiting);
  }
}

/** Fine enough to be looked at, and not beyond what a picture can hold. */
function usualDpi(drawing: Drawing): number {
  const { surface } = pageOf(drawing);
  const inches = Math.max(surface.widthMm, surface.heightMm) / 25.4;
  return Math.max(10, Math.min(150, Math.floor(8000 / inches)));
}

export const writeFittingPlan = (): Promise<void> => write('fitting-plan', {}, 96, PAPERS['fitting-plan'].ending, 'application/pdf');

/** What the file will lack, in words. */
function lackingWords({ hidden, pictures }: LeftOut): string[] {
  return [
    ...(hidden > 0
      ? [`${several(hidden, 'item')} on hidden films or prints ${hidden === 1 ? 'is' : 'are'} left out. Show them in the strip first.`]
      : []),
    ...(pictures > 0
      ? [
          `${several(pictures, 'picture')} ${pictures === 1 ? 'is' : 'are'} left out: this format knows lines alone. SVG, PDF and PNG hold them.`,
        ]
      : []),
  ];
}

function WriteOutForm() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const [kind, setKind] = useState<WrittenKind>('svg');
  const [what, setWhat] = useState(selection.length > 0 ? 'selection' : 'all');
  const [dpi, setDpi] = useState(() => usualDpi(drawing));
  const format = KINDS.find(({ value }) => value === kind) ?? (KINDS[0] as (typeof KINDS)[number]);
  const scope = what === 'all' ? {} : what === 'selection' ? { ids: selection } : { film: what };
  const unseen = leftOutOf(drawing, {}, 'pdf').hidden;
  const lacks = lackingWords(leftOutOf(drawing, scope, format.value as FileFormat | 'png'));
  return (
    <div className="flex flex-col gap-3">
      <Pick
        label="What is written"
        value={what}
        options={[
          { value: 'all', text: 'Everything' },
          ...(selection.length > 0
            ? [{ value: 'selection', text: `The selection, ${selection.length} ${selection.length === 1 ? 'item' : 'items'}` }]
            : []),
          ...filmsOf(drawing).map((film) => ({ value: film.id, text: `Only ${film.series} ${film.name}` })),
        ]}
        onChange={setWhat}
      />
      <PickRow<WrittenKind>
        label="Format"
        value={kind}
        options={KINDS.map(({ value, label, content }) => ({ value, label, content }))}
        onChange={setKind}
      />
      <p className="text-[13px] text-ink-soft">{format.says}</p>
      {lacks.map((words) => (
        <Notice key={words} level="warning">
          {words}
        </Notice>
      ))}
      {kind === 'png' ? <NumberField wide label="Dots an inch" value={dpi} decimals={0} min={10} max={1200} onChange={setDpi} /> : null}
      <Button look="main" onClick={() => void write(kind, scope, dpi, format.ending, format.type)}>
        Write the file
      </Button>
      <h3 className="mt-1 border-t pt-3 font-semibold">Papers</h3>
      {unseen > 0 ? (
        <Notice level="warning">
          {several(unseen, 'item')} on hidden films or prints {unseen === 1 ? 'is' : 'are'} not on the proof and the fitting plan, but cut
          all the same.
        </Notice>
      ) : null}
      {(['proof', 'ticket', 'fitting-plan'] as const).map((paper) => (
        <div key={paper} className="flex items-center gap-3">
          <Button className="w-32 shrink-0" onClick={() => void write(paper, {}, dpi, PAPERS[paper].ending, 'application/pdf')}>
            {PAPER_NAMES[paper]}
          </Button>
          <p className="text-[13px] text-ink-soft">{PAPERS[paper].says}</p>
        </div>
      ))}
    </div>
  );
}

export function WriteOutDialog() {
  return (
    <Dialog open title="Write to a file" onClose={close}>
      <WriteOutForm />
    </Dialog>
  );
}
