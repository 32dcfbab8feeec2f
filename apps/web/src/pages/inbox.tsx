/** Inbox: what other programs have saved into the watched folder. */
import { formatDistanceToNow } from 'date-fns';
import { FileInput } from 'lucide-react';
import { useShop } from '../api/shop.ts';
import { Empty, ShopPage } from './shop-page.tsx';

export const sizeText = (bytes: number): string =>
  bytes < 1000 ? `${bytes} B` : bytes < 1e6 ? `${Math.round(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;

export function InboxPage() {
  const inbox = useShop((state) => state.inbox);
  const files = inbox?.files ?? [];
  return (
    <ShopPage title="Inbox">
      <p className="mb-4 text-ink-soft">
        Save into <span className="numerals text-ink select-all">{inbox?.folder ?? '…'}</span> from any program. The file appears here and
        in every open job within two seconds; saved again, it can be updated where it was placed.
      </p>
      {inbox && files.length === 0 ? (
        <Empty title="Nothing in the Inbox">
          <p className="text-ink-soft">Save a drawing or a picture into the folder above, then open a job and place it.</p>
        </Empty>
      ) : null}
      {files.length > 0 ? (
        <table className="panel w-full">
          <thead>
            <tr className="rule-label border-b text-left">
              <th className="p-2 font-semibold">File</th>
              <th className="p-2 text-right font-semibold">Size</th>
              <th className="p-2 text-right font-semibold">Saved</th>
            </tr>
          </thead>
          <tbody>
            {files.map((file) => (
              <tr key={file.id} className="border-b last:border-b-0">
                <td className="flex items-center gap-2 p-2">
                  <FileInput size={16} className="text-ink-soft" aria-hidden /> <span className="truncate">{file.name}</span>
                </td>
                <td className="numerals p-2 text-right">{sizeText(file.bytes)}</td>
                <td className="p-2 text-right">{formatDistanceToNow(new Date(file.savedAt), { addSuffix: true })}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
    </ShopPage>
  );
}
