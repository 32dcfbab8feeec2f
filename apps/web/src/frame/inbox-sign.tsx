/** Said at every station: a file that lies on the drawing was saved anew, and what is laid up or sent is the older one. */
import { Inbox } from 'lucide-react';
import { useNavigate } from 'react-router';
import { useShop } from '../api/shop.ts';
import { useReports } from '../document/import-reports.ts';
import { placedFiles } from '../document/inbox-placed.ts';
import { select, useDocument } from '../document/store.ts';
import { Hint } from '../ui/button.tsx';

export function InboxSign({ jobId }: { jobId: string }) {
  const inbox = useShop((state) => state.inbox);
  const reports = useReports((state) => state.reports);
  const drawing = useDocument((state) => state.drawing);
  const navigate = useNavigate();
  const newer = placedFiles(inbox, reports, drawing).filter(({ isNewer }) => isNewer);
  if (newer.length === 0) return null;
  const names = newer.map(({ file }) => file.name).join(', ');
  const text = `Saved anew since it was placed: ${names}. Update it on Draw, or leave it as it is.`;
  return (
    <Hint text={text}>
      <button
        type="button"
        aria-label={text}
        onClick={() => {
          select([]);
          void navigate(`/jobs/${jobId}/draw`);
        }}
        className="flex h-7 items-center gap-1 border-l-4 border-amber bg-amber-wash px-1.5 text-[13px]"
      >
        <Inbox size={15} aria-hidden />
        <span className="numerals">{newer.length} newer</span>
      </button>
    </Hint>
  );
}
