/** The board of all jobs. */
import { JOB_STATES, type Job, type JobState } from '@lorvek/model';
import { differenceInCalendarDays, format, isValid, parseISO } from 'date-fns';
import { Archive, ArchiveRestore, Copy, Download, MoreHorizontal, Pencil, Plus, Upload } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useEffect, useState, type FormEvent } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { api, sentenceOf } from '../api/client.ts';
import { listen } from '../api/events.ts';
import { useAccess } from '../frame/sign-in.tsx';
import { Button } from '../ui/button.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Dialog } from '../ui/dialog.tsx';
import { TextField } from '../ui/fields.tsx';
import { Pick } from '../ui/choices.tsx';
import { Empty, ShopPage } from './shop-page.tsx';

const STATE_NAMES: Record<JobState, string> = { todo: 'To do', working: 'In work', ready: 'Ready to cut', done: 'Done' };
const STATE_LOOKS: Record<JobState, string> = {
  todo: 'border-line-strong',
  working: 'border-ink bg-ink text-sheet',
  ready: 'border-teal bg-teal text-sheet',
  done: 'border-teal text-teal',
};

interface Fields {
  name: string;
  customer: string;
  dueOn: string;
}

function JobForm({
  title,
  action,
  start,
  onDone,
  onClose,
}: {
  title: string;
  action: string;
  start: Fields;
  onDone(fields: Fields): Promise<void>;
  onClose(): void;
}) {
  const [fields, setFields] = useState(start);
  const [busy, setBusy] = useState(false);
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    if (fields.name.trim() === '') return void toast.warning('Give the job a name.');
    setBusy(true);
    onDone(fields)
      .catch((error: unknown) => toast.error(sentenceOf(error)))
      .finally(() => setBusy(false));
  };
  return (
    <Dialog open title={title} onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <TextField
          label="Name of the job"
          value={fields.name}
          autoFocus
          placeholder="Berth plates, east pier"
          onChange={(name) => setFields({ ...fields, name })}
        />
        <TextField label="Customer" value={fields.customer} onChange={(customer) => setFields({ ...fields, customer })} />
        <TextField label="Due" type="date" value={fields.dueOn} onChange={(dueOn) => setFields({ ...fields, dueOn })} />
        <div className="flex justify-end gap-2 pt-1">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={busy}>
            {action}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

function Due({ job }: { job: Job }) {
  if (!job.dueOn || !isValid(parseISO(job.dueOn))) return <span className="text-ink-soft">No date</span>;
  const days = differenceInCalendarDays(parseISO(job.dueOn), new Date());
  const late = days < 0 && job.state !== 'done';
  const words =
    days === 0 ? 'today' : days === 1 ? 'tomorrow' : days < 0 ? `${-days} ${days === -1 ? 'day' : 'days'} late` : `in ${days} days`;
  return (
    <span className={late ? 'font-semibold text-brick' : days <= 2 && job.state !== 'done' ? 'font-semibold text-amber' : 'text-ink-soft'}>
      {format(parseISO(job.dueOn), 'd MMM')} · {words}
    </span>
  );
}

const MENU_ITEM = 'flex h-8 items-center gap-2 px-3 outline-none select-none data-[highlighted]:bg-teal-wash';

function JobCard({ job, onEdit, onChanged }: { job: Job; onEdit(): void; onChanged(): void }) {
  const act = (work: Promise<unknown>, said: string): void =>
    void work
      .then(() => {
        toast.success(said);
        onChanged();
      })
      .catch((error: unknown) => toast.error(sentenceOf(error)));
  return (
    <li className="panel relative flex flex-col [--cut:14px] hover:[--panel-line:var(--color-teal)]">
      <Link to={`/jobs/${job.id}/draw`} className="flex flex-col" aria-label={`Open ${job.name}`}>
        <div className="m-2 mb-0 h-40 overflow-hidden border bg-desk">
          <img src={`/api/jobs/${job.id}/thumbnail.svg?r=${job.revision}`} alt="" className="h-full w-full object-fill" />
        </div>
        <div className="flex flex-col gap-0.5 px-3 pt-2">
          <span className="truncate text-base font-semibold" title={job.name}>
            {job.name}
          </span>
          <span className="truncate text-ink-soft">{job.customer || 'No customer'}</span>
        </div>
      </Link>
      <div className="flex items-center gap-2 px-3 pt-1.5 pb-2.5 text-[13px]">
        <span className="min-w-0 flex-1 truncate">
          <Due job={job} />
        </span>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            className={`h-6 border px-2 text-xs ${STATE_LOOKS[job.state]}`}
            aria-label={`State of ${job.name}: ${STATE_NAMES[job.state]}. Change it`}
          >
            {STATE_NAMES[job.state]}
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" className="z-50 min-w-40 border border-line-strong bg-sheet py-1 shadow-md">
              {JOB_STATES.map((state) => (
                <DropdownMenu.Item
                  key={state}
                  className={MENU_ITEM}
                  onSelect={() => act(api.changeJob(job.id, { state }), `${job.name}: ${STATE_NAMES[state].toLowerCase()}.`)}
                >
                  {STATE_NAMES[state]}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            className="inline-flex size-6 items-center justify-center hover:bg-teal-wash"
            aria-label={`More for ${job.name}`}
          >
            <MoreHorizontal size={15} />
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" className="z-50 min-w-44 border border-line-strong bg-sheet py-1 shadow-md">
              <DropdownMenu.Item className={MENU_ITEM} onSelect={onEdit}>
                <Pencil size={14} /> Name, customer, date
              </DropdownMenu.Item>
              <DropdownMenu.Item className={MENU_ITEM} asChild>
                <a href={api.jobFileUrl(job.id)} download>
                  <Download size={14} /> Save the job to a file
                </a>
              </DropdownMenu.Item>
              <DropdownMenu.Item className={MENU_ITEM} onSelect={() => act(api.duplicateJob(job.id), 'Job duplicated.')}>
                <Copy size={14} /> Duplicate
              </DropdownMenu.Item>
              <DropdownMenu.Item
                className={MENU_ITEM}
                onSelect={() =>
                  act(
                    api.changeJob(job.id, { archived: !job.archived }),
                    job.archived ? 'Job is back on the board.' : 'Job archived. Find it under Archived.',
                  )
                }
              >
                {job.archived ? <ArchiveRestore size={14} /> : <Archive size={14} />} {job.archived ? 'Back to the board' : 'Archive'}
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
    </li>
  );
}

const orNull = (text: string): string | null => (text === '' ? null : text);

function NoJobs({ isBoard, onBegin }: { isBoard: boolean; onBegin(): void }) {
  return isBoard ? (
    <Empty title="No job on the board">
      <p className="text-ink-soft">A job holds one drawing, its films, its sheets and everything that is cut for it.</p>
      <Button look="main" onClick={onBegin}>
        <Plus size={15} /> Begin the first job
      </Button>
    </Empty>
  ) : (
    <Empty title="Nothing is archived">
      <p className="text-ink-soft">Archive a job from its menu when it is done; it can always come back.</p>
    </Empty>
  );
}

export function JobsPage() {
  const [jobs, setJobs] = useState<Job[]>();
  const [shown, setShown] = useState<'board' | 'archived'>('board');
  const [making, setMaking] = useState(false);
  const [editing, setEditing] = useState<Job>();
  const navigate = useNavigate();
  const entered = useAccess((state) => state.entered);
  const readFile = (file: File): void =>
    void api
      .readJobFile(file)
      .then((job) => {
        toast.success(`“${job.name}” is on the board.`);
        load();
      })
      .catch((error: unknown) => toast.error(sentenceOf(error)));
  const load = (): void =>
    void api
      .jobs(shown === 'archived')
      .then(setJobs)
      .catch((error: unknown) => toast.error(sentenceOf(error)));
  useEffect(() => {
    load();
    return listen({ job: load });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- `load` depends on `shown` alone
  }, [shown, entered]);
  const create = async ({ name, customer, dueOn }: Fields): Promise<void> => {
    const job = await api.createJob({ name, customer, dueOn: orNull(dueOn) });
    void navigate(`/jobs/${job.id}/draw`);
  };
  const edit = async ({ name, customer, dueOn }: Fields): Promise<void> => {
    if (editing) await api.changeJob(editing.id, { name, customer, dueOn: orNull(dueOn) });
    setEditing(undefined);
    load();
  };
  return (
    <ShopPage
      title={shown === 'archived' ? 'Archived jobs' : 'Jobs'}
      actions={
        <>
          <div className="w-40">
            <Pick
              label="Shown"
              hideLabel
              value={shown}
              options={[
                { value: 'board', text: 'On the board' },
                { value: 'archived', text: 'Archived' },
              ]}
              onChange={(next) => setShown(next)}
            />
          </div>
          <FileButton label="Job file" accept=".lorvek-job,.tar" onFiles={([file]) => readFile(file)}>
            <Upload size={15} /> Job from a file
          </FileButton>
          <Button look="main" onClick={() => setMaking(true)}>
            <Plus size={15} /> New job
          </Button>
        </>
      }
    >
      {jobs?.length === 0 ? (
        <NoJobs isBoard={shown === 'board'} onBegin={() => setMaking(true)} />
      ) : (
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-4">
          {(jobs ?? []).map((job) => (
            <JobCard key={job.id} job={job} onEdit={() => setEditing(job)} onChanged={load} />
          ))}
        </ul>
      )}
      {making ? (
        <JobForm
          title="New job"
          action="Begin"
          start={{ name: '', customer: '', dueOn: '' }}
          onDone={create}
          onClose={() => setMaking(false)}
        />
      ) : null}
      {editing ? (
        <JobForm
          title="Job"
          action="Keep"
          start={{ name: editing.name, customer: editing.customer, dueOn: editing.dueOn ?? '' }}
          onDone={edit}
          onClose={() => setEditing(undefined)}
        />
      ) : null}
    </ShopPage>
  );
}
