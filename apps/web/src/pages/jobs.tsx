/** The board of all jobs. */
import { JOB_STATES, type Job, type JobState } from '@lorvek/model';
import { differenceInCalendarDays, isValid, parseISO } from 'date-fns';
import { Archive, ArchiveRestore, Copy, Download, MoreHorizontal, Pencil, Plus, Upload } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { api } from '../api/client.ts';
import { listen } from '../api/events.ts';
import { useAccess } from '../frame/sign-in.tsx';
import { Button } from '../ui/button.tsx';
import { FileButton } from '../ui/file-button.tsx';
import { Menu } from '../ui/menu.tsx';
import { tellFailure } from '../ui/tell.ts';
import { useLater } from '../ui/use-later.ts';
import type { JobFields } from './job-form.tsx';
import { Empty, ShopPage } from './shop-page.tsx';

const STATE_NAMES: Record<JobState, string> = { todo: 'To do', working: 'In work', ready: 'Ready to cut', done: 'Done' };
const STATE_LOOKS: Record<JobState, string> = {
  todo: 'border-line-strong',
  working: 'border-ink bg-ink text-sheet',
  ready: 'border-teal bg-teal text-sheet',
  done: 'border-teal text-teal',
};

const NO_FIELDS: JobFields = { name: '', customer: '', dueOn: '' };

const loadForm = () => import('./job-form.tsx');
const JobForm = lazy(async () => ({ default: (await loadForm()).JobForm }));

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' });

function Due({ job }: { job: Job }) {
  if (!job.dueOn || !isValid(parseISO(job.dueOn))) return <span className="text-ink-soft">No date</span>;
  const days = differenceInCalendarDays(parseISO(job.dueOn), new Date());
  const late = days < 0 && job.state !== 'done';
  const words =
    days === 0 ? 'today' : days === 1 ? 'tomorrow' : days < 0 ? `${-days} ${days === -1 ? 'day' : 'days'} late` : `in ${days} days`;
  return (
    <span className={late ? 'font-semibold text-brick' : days <= 2 && job.state !== 'done' ? 'font-semibold text-amber' : 'text-ink-soft'}>
      {DAY.format(parseISO(job.dueOn))} · {words}
    </span>
  );
}

/** Does something with a job and says what came of it. */
type Act = (work: Promise<unknown>, said: string) => void;

function StateMenu({ job, act }: { job: Job; act: Act }) {
  return (
    <Menu
      trigger={
        <button
          type="button"
          className={`h-6 border px-2 text-xs ${STATE_LOOKS[job.state]}`}
          aria-label={`State of ${job.name}: ${STATE_NAMES[job.state]}. Change it`}
        >
          {STATE_NAMES[job.state]}
        </button>
      }
      entries={JOB_STATES.map((state) => ({
        id: state,
        content: STATE_NAMES[state],
        onSelect: () => act(api.changeJob(job.id, { state }), `${job.name}: ${STATE_NAMES[state].toLowerCase()}.`),
      }))}
    />
  );
}

/** An entry of a menu: a picture and words. */
const said = (Icon: typeof Pencil, text: string) => (
  <>
    <Icon size={14} /> {text}
  </>
);

function JobMenu({ job, act, onEdit }: { job: Job; act: Act; onEdit(): void }) {
  const archive = (): void =>
    act(
      api.changeJob(job.id, { archived: !job.archived }),
      job.archived ? 'Job is back on the board.' : 'Job archived. Find it under Archived.',
    );
  return (
    <Menu
      trigger={
        <button
          type="button"
          className="inline-flex size-6 items-center justify-center hover:bg-teal-wash"
          aria-label={`More for ${job.name}`}
        >
          <MoreHorizontal size={15} />
        </button>
      }
      entries={[
        { id: 'edit', content: said(Pencil, 'Name, customer, date'), onSelect: onEdit },
        { id: 'save', content: said(Download, 'Save the job to a file'), href: api.jobFileUrl(job.id) },
        { id: 'copy', content: said(Copy, 'Duplicate'), onSelect: () => act(api.duplicateJob(job.id), 'Job duplicated.') },
        {
          id: 'archive',
          content: job.archived ? said(ArchiveRestore, 'Back to the board') : said(Archive, 'Archive'),
          onSelect: archive,
        },
      ]}
    />
  );
}

function JobCard({ job, onEdit, onChanged }: { job: Job; onEdit(): void; onChanged(): void }) {
  const act: Act = (work, said) =>
    void work
      .then(() => {
        toast.success(said);
        onChanged();
      })
      .catch(tellFailure);
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
        <StateMenu job={job} act={act} />
        <JobMenu job={job} act={act} onEdit={onEdit} />
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

type Shown = 'board' | 'archived';

/** The jobs of the board, or the archived ones, as they are now. */
function useJobs(shown: Shown): { jobs: readonly Job[] | undefined; load(): void } {
  const [jobs, setJobs] = useState<Job[]>();
  const entered = useAccess((state) => state.entered);
  const load = (): void =>
    void api
      .jobs(shown === 'archived')
      .then(setJobs)
      .catch(tellFailure);
  useEffect(() => {
    load();
    return listen({ job: load });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- `load` depends on `shown` alone
  }, [shown, entered]);
  return { jobs, load };
}

/** The board, or what is archived: each has its address. */
function ShownLinks({ shown }: { shown: Shown }) {
  const look = (is: Shown): string =>
    is === shown ? 'relative border-teal bg-teal-wash font-semibold' : 'border-line-strong bg-sheet hover:bg-teal-wash';
  return (
    <nav aria-label="Jobs that are shown" className="flex">
      {(['board', 'archived'] as const).map((is) => (
        <Link
          key={is}
          to={is === 'board' ? '/jobs' : '/jobs?archived'}
          {...(is === shown ? { 'aria-current': 'page' as const } : {})}
          className={`-ml-px flex h-8 items-center border px-2.5 text-[13px] first:ml-0 ${look(is)}`}
        >
          {is === 'board' ? 'On the board' : 'Archived'}
        </Link>
      ))}
    </nav>
  );
}

interface ActionsProps {
  readonly shown: Shown;
  onRead(): void;
  onNew(): void;
}

function Actions({ shown, onRead, onNew }: ActionsProps) {
  const readFile = (file: File): void =>
    void api
      .readJobFile(file)
      .then((job) => {
        toast.success(`“${job.name}” is on the board.`);
        onRead();
      })
      .catch(tellFailure);
  return (
    <>
      <ShownLinks shown={shown} />
      <FileButton label="Job file" accept=".lorvek-job,.tar" onFiles={([file]) => readFile(file)}>
        <Upload size={15} /> Job from a file
      </FileButton>
      <Button look="main" onClick={onNew}>
        <Plus size={15} /> New job
      </Button>
    </>
  );
}

export function JobsPage() {
  const [search] = useSearchParams();
  const shown: Shown = search.has('archived') ? 'archived' : 'board';
  const [asking, setAsking] = useState<'new' | Job>();
  const navigate = useNavigate();
  useLater(loadForm);
  const { jobs, load } = useJobs(shown);
  const keep = async ({ name, customer, dueOn }: JobFields): Promise<void> => {
    const fields = { name, customer, dueOn: orNull(dueOn) };
    if (asking === 'new') return void navigate(`/jobs/${(await api.createJob(fields)).id}/draw`);
    if (asking) await api.changeJob(asking.id, fields);
    setAsking(undefined);
    load();
  };
  const begin = (): void => setAsking('new');
  const isNew = asking === 'new';
  return (
    <ShopPage title={shown === 'archived' ? 'Archived jobs' : 'Jobs'} actions={<Actions shown={shown} onRead={load} onNew={begin} />}>
      {jobs?.length === 0 ? (
        <NoJobs isBoard={shown === 'board'} onBegin={begin} />
      ) : (
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-4">
          {(jobs ?? []).map((job) => (
            <JobCard key={job.id} job={job} onEdit={() => setAsking(job)} onChanged={load} />
          ))}
        </ul>
      )}
      {asking ? (
        <Suspense>
          <JobForm
            title={isNew ? 'New job' : 'Job'}
            action={isNew ? 'Begin' : 'Keep'}
            start={isNew ? NO_FIELDS : { name: asking.name, customer: asking.customer, dueOn: asking.dueOn ?? '' }}
            onDone={keep}
            onClose={() => setAsking(undefined)}
          />
        </Suspense>
      ) : null}
    </ShopPage>
  );
}
