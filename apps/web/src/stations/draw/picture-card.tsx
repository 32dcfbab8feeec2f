/** Pictures on the drawing: placing one, its strength, its lock, its scale. */
import { isPrinted, pageOf, setItemFields, type PictureItem } from '@lorvek/model';
import { describeLength } from '@lorvek/core/units';
import { ImagePlus } from 'lucide-react';
import { dispatch, useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { FileButton } from '../../ui/file-button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { bringInAll } from './bring-in/bring-in.ts';
import { takeLastScale, useKnown } from './tools/known-length-tool.tsx';

export function BringInButton() {
  return (
    <FileButton
      size="small"
      label="File to bring in"
      accept=".svg,.svgz,.pdf,.dxf,.plt,.hpgl,.hpg,.tif,.tiff,image/svg+xml,application/pdf,image/png,image/jpeg,image/webp,image/gif,image/bmp,image/tiff"
      multiple
      onFiles={(files) => void bringInAll(files)}
    >
      <ImagePlus size={14} /> Bring in a drawing or picture
    </FileButton>
  );
}

const STRENGTHS = ['100', '70', '40', '20'] as const;

export function PictureCard({ item }: { item: PictureItem }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const isWeak = useDocument((state) => isPrinted(state.drawing, item)) && item.strengthPct < 100;
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
      {isWeak ? <Notice level="note">Shown weaker on Draw only: it is printed in full.</Notice> : null}
      {item.hidden ? <Switch label="Hidden: its trace stands for it" checked onChange={() => set({ hidden: false })} /> : null}
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
