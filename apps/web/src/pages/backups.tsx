/** Backups: what is kept of the shop, to be taken away and to be brought back. */
import type { Backup } from '@lorvek/model';
import { format, formatDistanceToNow, isValid, parseISO } from 'date-fns';
import { Download, LogOut, RotateCcw, Save, Upload } from 'lucide-react';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { signOut, useAccess } from '../frame/sign-in.tsx';
import { Button } from '../ui/button.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Dialog, DialogButtons } from '../ui/dialog.tsx';
import { tellFailure } from '../ui/tell.ts';
import { sizeText } from './inbox.tsx';
import { Empty, ShopPage } from './shop-page.tsx';

const WHAT_THEY_ARE =
  'All jobs, stock, machines, runs, pictures and fonts. One is made every day and before each upgrade of the data. ' +
  'Take a copy to another disk from time to time: a backup beside the shop does not outlive its disk.';

const WHY: Record<string, string> = {
  daily: 'by itself, daily',
  'by-hand': 'made by hand',
  'before-upgrade': 'before the data were upgraded',
  'before-restore': 'before a backup was brought back',
};

const timeText = (iso: string): string => {
  const at = parseISO(iso);
  return isValid(at) ? `${format(at, 'd MMM yyyy, HH:mm')} (${formatDistanceToNow(at, { addSuffix: true })})` : iso;
};

interface Asking {
  readonly name: string;
  act(): Promise<unknown>;
}

/** The backups that are kept, newest first, each to be taken a copy of or brought back. */
function BackupsTable({ backups, busy, onBack }: { backups: readonly Backup[]; busy: boolean; onBack(backup: Backup): void }) {
  return (
    <table className="panel w-full">
      <thead>
        <tr className="rule-label border-b text-left">
          <th className="p-2 font-semibold">Made</th>
          <th className="p-2 font-semibold">Why</th>
          <th className="p-2 text-right font-semibold">Database</th>
          <th className="p-2" />
        </tr>
      </thead>
      <tbody>
        {backups.map((backup) => (
          <tr key={backup.name} className="border-b last:border-b-0">
            <td className="p-2">{timeText(backup.madeAt)}</td>
            <td className="p-2 text-ink-soft">{WHY[backup.why] ?? backup.why}</td>
            <td className="numerals p-2 text-right">{sizeText(backup.bytes)}</td>
            <td className="p-2">
              <div className="flex justify-end gap-1.5">
                <a
                  href={api.backupUrl(backup.name)}
                  download
                  className="inline-flex h-7 items-center gap-1.5 border border-line-strong px-2 text-xs hover:bg-teal-wash"
                >
                  <Download size={13} /> Take a copy
                </a>
                <Button size="small" disabled={busy} onClick={() => onBack(backup)}>
                  <RotateCcw size={13} /> Bring back
                </Button>
              </div>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function SureDialog({ name, onClose, onSure }: { name: string; onClose(): void; onSure(): void }) {
  return (
    <Dialog
      open
      title="Bring back a backup?"
      text={`Everything in the shop becomes what it was in ${name}. What stands here now is kept as a backup of its own first.`}
      onClose={onClose}
    >
      <DialogButtons action="Bring it back" cancel="Leave it as it is" look="stop" onAct={onSure} onClose={onClose} />
    </Dialog>
  );
}

interface ActionsProps {
  readonly busy: boolean;
  onFile(file: File): void;
  onMake(): void;
}

function Actions({ busy, onFile, onMake }: ActionsProps) {
  const asked = useAccess((state) => state.asked);
  return (
    <>
      <FileButton disabled={busy} label="Backup file" accept=".tar,application/x-tar" onFiles={([file]) => onFile(file)}>
        <Upload size={15} /> Bring back from a file
      </FileButton>
      <Button look="main" disabled={busy} onClick={onMake}>
        <Save size={15} /> Make one now
      </Button>
      {asked ? (
        <Button onClick={() => void signOut().catch(tellFailure)}>
          <LogOut size={15} /> Sign out
        </Button>
      ) : null}
    </>
  );
}

export function BackupsPage() {
  const [backups, setBackups] = useState<Backup[]>();
  const [asking, setAsking] = useState<Asking>();
  const [busy, setBusy] = useState<string>();
  const entered = useAccess((state) => state.entered);
  const load = (): void => void api.backups().then(setBackups).catch(tellFailure);
  useEffect(load, [entered]);
  const during = (what: string, work: Promise<unknown>, said: string): void => {
    setBusy(what);
    work
      .then(() => {
        toast.success(said);
        load();
      })
      .catch(tellFailure)
      .finally(() => setBusy(undefined));
  };
  return (
    <ShopPage
      title="Backups"
      actions={
        <Actions
          busy={busy !== undefined}
          onFile={(file) => setAsking({ name: file.name, act: () => api.bringBackFile(file) })}
          onMake={() => during('Making a backup…', api.makeBackup(), 'Backup made.')}
        />
      }
    >
      <p className="mb-4 text-ink-soft">{WHAT_THEY_ARE}</p>
      {busy ? (
        <p role="status" className="mb-3">
          {busy}
        </p>
      ) : null}
      {backups?.length === 0 ? (
        <Empty title="No backup yet">
          <p className="text-ink-soft">The first is made by itself once there is a job. You can also make one now.</p>
        </Empty>
      ) : backups ? (
        <BackupsTable
          backups={backups}
          busy={busy !== undefined}
          onBack={(backup) => setAsking({ name: `the shop of ${timeText(backup.madeAt)}`, act: () => api.bringBack(backup.name) })}
        />
      ) : (
        <p className="text-ink-soft">Looking…</p>
      )}
      {asking ? (
        <SureDialog
          name={asking.name}
          onClose={() => setAsking(undefined)}
          onSure={() => {
            setAsking(undefined);
            during('Bringing back…', asking.act(), 'The backup is back.');
          }}
        />
      ) : null}
    </ShopPage>
  );
}
