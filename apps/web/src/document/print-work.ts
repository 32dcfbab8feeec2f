/** Steps of printing that need a picture's pixels: its silhouette, its ground lifted, its clipping outline. */
import { leavesOf, setItemFields, type addEdgeCut, type PictureItem } from '@lorvek/model';
import { toast } from 'sonner';
import { api, sentenceOf } from '../api/client.ts';
import { askAside } from '../worker/compute.ts';
import { asOne, dispatch, newId, useDocument } from './store.ts';

type EdgeCutArgs = Parameters<typeof addEdgeCut>[1];

/** Pictures of a selection whose silhouette is not known yet. */
const unknownPictures = (ids: readonly string[]): PictureItem[] =>
  leavesOf(useDocument.getState().drawing, ids).filter(
    (leaf): leaf is PictureItem => leaf.kind === 'picture' && leaf.clip === undefined && leaf.silhouette === undefined,
  );

/** Puts an edge cut round items; what their pictures let through is worked out first, so that the line follows it. */
export async function cutRound(ids: readonly string[], add: (args: EdgeCutArgs) => boolean): Promise<void> {
  try {
    const found = await Promise.all(
      unknownPictures(ids).map(async (picture) => ({ picture, path: await askAside('silhouette-of-clear', { asset: picture.asset }) })),
    );
    asOne({ origin: 'edge-cut.add' }, () => {
      for (const { picture, path } of found)
        if (path !== '') dispatch(setItemFields, { id: picture.id, fields: { silhouette: path } }, { origin: 'picture.silhouette' });
      add({ id: newId('item'), of: ids });
    });
  } catch (error) {
    toast.error(sentenceOf(error));
  }
}

/** Makes the ground that runs along a picture's border clear, in a copy of the picture. */
export async function liftGround(picture: PictureItem): Promise<void> {
  try {
    const { bytes, path } = await askAside('lift-ground', { asset: picture.asset });
    if (path === '') {
      toast.warning('The ground could not be told from the picture. Lift it by hand on Trace, or draw a clipping outline.');
      return;
    }
    const kept = await api.addPicture(new File([bytes as Uint8Array<ArrayBuffer>], 'lifted.png', { type: 'image/png' }));
    dispatch(
      setItemFields,
      { id: picture.id, fields: { asset: kept.asset, widthPx: kept.widthPx, heightPx: kept.heightPx, silhouette: path } },
      { origin: 'picture.lift' },
    );
  } catch (error) {
    toast.error(sentenceOf(error));
  }
}

/** Shows a picture only within the outline of what stands on its ground. */
export async function clipToOutline(picture: PictureItem): Promise<void> {
  try {
    const path = await askAside('silhouette-of-ground', { asset: picture.asset });
    if (path === '') {
      toast.warning('No outline was found: the picture’s ground is too like the picture. Lift it by hand on Trace.');
      return;
    }
    dispatch(setItemFields, { id: picture.id, fields: { clip: path } }, { origin: 'picture.clip' });
  } catch (error) {
    toast.error(sentenceOf(error));
  }
}
