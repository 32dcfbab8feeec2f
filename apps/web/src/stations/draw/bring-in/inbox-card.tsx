/** The Inbox on the ticket: files that were saved into the watched folder, placed or updated with one click. */
import type { InboxFile } from '@lorvek/model';
import { useState } from 'react';
import { toast } from 'sonner';
import { api, sentenceOf } from '../../../api/client.ts';
import { useShop } from '../../../api/shop.ts';
import { useDocument } from '../../../document/store.ts';
import { Button } from '../../../ui/button.tsx';
import { Card } from '../../../ui/card.tsx';
import { bringIn, updateInPlace } from './bring-in.ts';
import { useReports } from '../../../document/import-reports.ts';
import { placedFiles, type PlacedFile } from '../../../document/inbox-placed.ts';

const MOST_SHOWN = 8;

export function InboxCard() {
  const inbox = useShop((state) => state.inbox);
  const drawing = useDocument((state) => state.drawing);
  const reports = useReports((state) => state.reports);
  const [busy, setBusy] = useState<string>();
  const files = inbox?.files ?? [];
  if (files.length === 0) return null;
  const placedNow = placedFiles(inbox, reports, drawing);
  const act = async (file: InboxFile, placed: PlacedFile | undefined): Promise<void> => {
    setBusy(file.id);
    try {
      const bytes = await api.inboxFile(file);
      const from = { id: file.id, stamp: file.stamp };
      if (placed) await updateInPlace(placed.root, placed.report, bytes, from);
      else await bringIn(bytes, undefined, from);
    } catch (error) {
      toast.error(`“${file.name}”: ${sentenceOf(error)}`);
    } finally {
      setBusy(undefined);
    }
  };
  return (
    <Card title="Inbox">
      <ul className="flex flex-col gap-1.5">
        {files.slice(0, MOST_SHOWN).map((file) => {
          const placed = placedNow.find((one) => one.file.id === file.id);
          const isNewer = placed?.isNewer === true;
          return (
            <li key={file.id} className="flex items-center gap-2">
              <span className="min-w-0 flex-1 truncate text-[13px]" title={file.name}>
                {file.name}
                {placed && !isNewer ? <span className="text-ink-soft"> placed</span> : null}
              </span>
              <Button
                size="small"
                look={isNewer ? 'main' : 'plain'}
                disabled={busy !== undefined}
                onClick={() => void act(file, isNewer ? placed : undefined)}
              >
                {isNewer ? 'Update' : placed ? 'Place again' : 'Place'}
              </Button>
            </li>
          );
        })}
      </ul>
      {files.length > MOST_SHOWN ? <p className="text-[13px] text-ink-soft">and {files.length - MOST_SHOWN} older files</p> : null}
    </Card>
  );
}
