/** Pictures that a series' picture fields name by their file. */
import { itemOf, setSeries, type NamedPicture, type Series } from '@lorvek/model';
import { useState } from 'react';
import { api, sentenceOf } from '../../../api/client.ts';
import { dispatch, useDocument } from '../../../document/store.ts';
import { FileButton } from '../../../ui/file-button.tsx';
import { askAside } from '../../../worker/compute.ts';
import { toast } from 'sonner';

async function named(file: File): Promise<NamedPicture> {
  const { asset, widthPx, heightPx } = await api.addPicture(file);
  const path = await askAside('silhouette-of-clear', { asset });
  return { fileName: file.name, asset, widthPx, heightPx, ...(path === '' ? {} : { silhouette: path }) };
}

export function Pictures({ series }: { series: Series }) {
  const drawing = useDocument((state) => state.drawing);
  const [isBusy, setBusy] = useState(false);
  if (!series.fields.some(({ item }) => itemOf(drawing, item)?.kind === 'picture')) return null;
  const take = async (files: readonly File[]): Promise<void> => {
    setBusy(true);
    const added: NamedPicture[] = [];
    for (const file of files)
      await named(file)
        .then((one) => added.push(one))
        .catch((error: unknown) => toast.error(`${file.name}: ${sentenceOf(error)}`));
    setBusy(false);
    const names = new Set(added.map(({ fileName }) => fileName));
    const pictures = [...(series.pictures ?? []).filter(({ fileName }) => !names.has(fileName)), ...added];
    if (added.length > 0) dispatch(setSeries, { fields: { pictures } }, { origin: 'series.pictures' });
  };
  const count = series.pictures?.length ?? 0;
  return (
    <div className="flex items-center justify-between gap-2">
      <span className="text-[13px]">
        {count} {count === 1 ? 'picture' : 'pictures'} by file name
      </span>
      <FileButton
        size="small"
        disabled={isBusy}
        label="Pictures of the series"
        accept="image/png,image/jpeg,image/webp,image/gif,image/bmp"
        multiple
        onFiles={(files) => void take(files)}
      >
        {isBusy ? 'Adding…' : 'Add pictures…'}
      </FileButton>
    </div>
  );
}
