/** Pictures on the drawing: placing one, its strength, its lock, its scale. */
import { addItems, pageOf, setItemFields, type PictureItem } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import type { Point } from '@lorvek/core/geometry';
import { ImagePlus } from 'lucide-react';
import { useRef } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../api/client.ts';
import { dispatch, select, useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { importDrawing } from './import-card.tsx';
import { newPicture } from './new-items.ts';
import { takeLastScale, useKnown } from './tools/known-length-tool.tsx';

const PICTURES = /^image\/(png|jpeg|webp|gif|bmp)$/;

/** Takes a picture in and lays it on the drawing. */
export async function placePicture(file: File, at?: Point): Promise<void> {
  try {
    const asset = await api.addPicture(file);
    const { drawing } = useDocument.getState();
    const item = newPicture(drawing, file.name.replace(/\.[a-z0-9]+$/i, ''), asset);
    const placed: PictureItem = at ? { ...item, matrix: [1, 0, 0, 1, Math.round(at.x * 100) / 100, Math.round(at.y * 100) / 100] } : item;
    if (dispatch(addItems, { items: [placed], roots: [placed.id] }, { origin: 'picture.add' })) {
      select([placed.id]);
      if (!asset.dpi)
        toast.info('The picture does not say how large it is: it lies as wide as the surface. Known length (K) gives it its true size.');
    }
  } catch (error) {
    toast.error(`“${file.name}”: ${sentenceOf(error)}`);
  }
}

/** Takes a file in by what it is: a drawing as items, a picture as a picture. */
async function takeFile(file: File, at?: Point): Promise<void> {
  if (file.type === 'image/svg+xml' || /\.svg$/i.test(file.name)) await importDrawing(file, at);
  else if (PICTURES.test(file.type)) await placePicture(file, at);
  else toast.warning(`“${file.name}” cannot be brought in: SVG drawings and PNG, JPEG, WebP, GIF and BMP pictures can.`);
}

export async function takeDroppedFiles(files: readonly File[], at: Point): Promise<void> {
  for (const file of files.slice(0, 8)) {
    await takeFile(file, at);
  }
}

export function BringInButton() {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button size="small" onClick={() => input.current?.click()}>
        <ImagePlus size={14} /> Bring in a drawing or picture
      </Button>
      <input
        ref={input}
        type="file"
        aria-label="File to bring in"
        accept=".svg,image/svg+xml,image/png,image/jpeg,image/webp,image/gif,image/bmp"
        className="hidden"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          event.target.value = '';
          if (file) void takeFile(file);
        }}
      />
    </>
  );
}

const STRENGTHS = ['100', '70', '40', '20'] as const;

export function PictureCard({ item }: { item: PictureItem }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const lastMmPerPx = useKnown((state) => state.lastMmPerPx);
  const set = (fields: Partial<PictureItem>): void => void dispatch(setItemFields, { id: item.id, fields }, { origin: 'picture.set' });
  const say = (mm: number): string => describeLength(Math.round(mm * 100) / 100, unit);
  return (
    <Card title="Picture">
      <Figure name="Pixels">
        {item.widthPx} × {item.heightPx}
      </Figure>
      <Figure name="Resolution">{Math.round(25.4 / item.mmPerPx)} dpi</Figure>
      <Figure name="Size">
        {say(item.widthPx * item.mmPerPx)} × {say(item.heightPx * item.mmPerPx)}
      </Figure>
      <PickRow
        label="Strength"
        value={STRENGTHS.find((s) => Number(s) === item.strengthPct) ?? '100'}
        options={STRENGTHS.map((value) => ({ value, label: `Strength ${value} percent`, content: `${value} %` }))}
        onChange={(value) => set({ strengthPct: Number(value) })}
      />
      <Switch label="Locked: cannot be clicked or moved" checked={item.locked} onChange={(locked) => set({ locked })} />
      <div className="flex flex-wrap gap-1.5">
        <Button size="small" onClick={() => useView.setState({ tool: 'known-length' })}>
          Known length…
        </Button>
        {lastMmPerPx && Math.abs(lastMmPerPx / item.mmPerPx - 1) > 1e-9 ? (
          <Button size="small" disabled={item.locked} onClick={() => takeLastScale(item)}>
            Use last scale
          </Button>
        ) : null}
      </div>
    </Card>
  );
}
