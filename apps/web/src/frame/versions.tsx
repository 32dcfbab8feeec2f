/** Named versions of a job: kept, looked at, gone back to as a new change that can be undone like any other. */
import { takeDrawing, type JobVersion } from '@lorvek/model';
import { format, isValid, parseISO } from 'date-fns';
import { Bookmark, RotateCcw, Trash2 } from 'lucide-react';
import { useEffect, useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { dispatch, useDocument } from '../document/store.ts';
import { Button, IconButton } from '../ui/button.tsx';
import { Notice } from '../ui/card.tsx';
import { Dialog } from '../ui/dialog.tsx';
import { TextField } from '../ui/fields.tsx';
import { tellFailure } from '../ui/tell.ts';
import { useDialogs } from './dialogs-open.ts';

const close = (): void => useDialogs.setState({ versions: false });

const timeText = (iso: string): string => {
  const at = parseISO(iso);
  return isValid(at) ? format(at, 'd MMM yyyy, HH:mm') : iso;
};

async function goBack(jobId: string, { id, name }: JobVersion): Promise<void> {
  const { records } = await api.version(jobId, id);
  if (!dispatch(takeDrawing, { drawing: records }, { origin: 'version.back' })) return;
  close();
  toast.success(`The drawing is as it was in “${name}”. Undo takes that back.`);
}

function VersionRow({ jobId, version, onGone }: { jobId: string; version: JobVersion; onGone(): void }) {
  return (
    <li className="flex items-center gap-3 border-b py-2 last:border-b-0">
      <div className="h-16 w-28 shrink-0 overflow-hidden border bg-desk">
        <img src={api.versionPictureUrl(jobId, version.id)} alt="" className="h-full w-full object-fill" loading="lazy" />
      </div>
      <div className="min-w-0 flex-1">
        <p className="truncate font-semibold" title={version.name}>
          {version.name}
        </p>
        <p className="text-[13px] text-ink-soft">{timeText(version.madeAt)}</p>
      </div>
      <Button size="small" onClick={() => void goBack(jobId, version).catch(tellFailure)}>
        <RotateCcw size={13} /> Go back to it
      </Button>
      <IconButton
        label={`Take away ${version.name}`}
        onClick={() => void api.removeVersion(jobId, version.id).then(onGone).catch(tellFailure)}
      >
        <Trash2 size={15} />
      </IconButton>
    </li>
  );
}

/** Keeps the job as it is under a name; only what is saved can be kept. */
function KeepForm({ jobId, suggested, onKept }: { jobId: string; suggested: string | undefined; onKept(version: JobVersion): void }) {
  const save = useDocument((state) => state.save);
  const revision = useDocument((state) => state.revision);
  const [name, setName] = useState('');
  const [busy, setBusy] = useState(false);
  const keep = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    setBusy(true);
    try {
      const kept = await api.keepVersion(jobId, { name: name.trim() || (suggested ?? ''), revision });
      onKept(kept);
      setName('');
      toast.success(`“${kept.name}” is kept.`);
    } catch (error) {
      tellFailure(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <form className="flex items-end gap-2" onSubmit={(event) => void keep(event)}>
        <div className="flex-1">
          <TextField label="Name of the version" value={name} placeholder={suggested ?? ''} onChange={setName} autoFocus />
        </div>
        <Button type="submit" look="main" disabled={busy || save !== 'saved' || suggested === undefined}>
          <Bookmark size={15} /> Keep it
        </Button>
      </form>
      {save === 'saved' ? null : (
        <Notice level="note">
          {save === 'read-only'
            ? 'This job can be looked at only: no version of it is kept here.'
            : 'The last changes are still on their way; the version is kept once they are saved.'}
        </Notice>
      )}
    </>
  );
}

function VersionsForm() {
  const jobId = useDocument((state) => state.job?.id ?? '');
  const [versions, setVersions] = useState<JobVersion[]>();
  useEffect(() => {
    let current = true;
    api
      .versions(jobId)
      .then((list) => current && setVersions(list))
      .catch(tellFailure);
    return () => {
      current = false;
    };
  }, [jobId]);
  return (
    <div className="flex flex-col gap-3">
      <KeepForm
        jobId={jobId}
        suggested={versions && `Version ${versions.length + 1}`}
        onKept={(kept) => setVersions((list) => [kept, ...(list ?? [])])}
      />
      {versions === undefined ? <p className="text-ink-soft">Looking…</p> : null}
      {versions?.length === 0 ? (
        <p className="text-ink-soft">
          No version yet. Every change is saved anyway; a version is a state that you want to find again by its name.
        </p>
      ) : null}
      <ul className="max-h-[46vh] overflow-y-auto">
        {(versions ?? []).map((version) => (
          <VersionRow
            key={version.id}
            jobId={jobId}
            version={version}
            onGone={() => setVersions((list) => list?.filter(({ id }) => id !== version.id))}
          />
        ))}
      </ul>
    </div>
  );
}

export function VersionsDialog() {
  return (
    <Dialog open title="Versions" text="Keep this state of the drawing under a name, or go back to one." width={560} onClose={close}>
      <VersionsForm />
    </Dialog>
  );
}
