/** The top bar: mark, job, the five stations as one track, save state, undo and redo, search. */
import { JOB_STATES, leavesOf, type Job } from '@lorvek/model';
import { ArrowLeft, Bookmark, Download, HelpCircle, ListOrdered, Redo2, Search, Undo2 } from 'lucide-react';
import { lazy, Suspense, useEffect } from 'react';
import { Link, NavLink } from 'react-router';
import { Hint, IconButton } from '../ui/button.tsx';
import { Mark } from '../ui/mark.tsx';
import { mayStep, redo, undo, useDocument } from '../document/store.ts';
import { useSheets } from '../document/sheets.ts';
import { useShop } from '../api/shop.ts';
import { STATIONS } from './stations.ts';
import { InboxSign } from './inbox-sign.tsx';
import { SaveStateMark } from './save-state.tsx';
import { useLater } from '../ui/use-later.ts';
import { openVersions, openWriteOut, useDialogs } from './dialogs-open.ts';
import { openSearch } from './search-open.ts';
import { openKeySheet } from './key-sheet-open.ts';

const loadVersions = () => import('./versions.tsx');
const loadWriteOut = () => import('./write-out.tsx');
const VersionsDialog = lazy(async () => ({ default: (await loadVersions()).VersionsDialog }));
const WriteOutDialog = lazy(async () => ({ default: (await loadWriteOut()).WriteOutDialog }));

/** The dialogs that the bar opens. */
function Dialogs() {
  const { versions, writeOut } = useDialogs();
  useLater(loadVersions);
  useLater(loadWriteOut);
  // left with the job, they are not open over the next one
  useEffect(() => () => useDialogs.setState({ versions: false, writeOut: false }), []);
  return (
    <Suspense>
      {versions ? <VersionsDialog /> : null}
      {writeOut ? <WriteOutDialog /> : null}
    </Suspense>
  );
}

type Dot = 'empty' | 'work' | 'findings' | 'ready';

const DOTS: Record<Dot, { look: string; text: string }> = {
  empty: { look: 'border border-line-strong', text: 'empty' },
  work: { look: 'bg-ink-soft', text: 'in work' },
  findings: { look: 'bg-amber rotate-45', text: 'findings' },
  ready: { look: 'bg-teal', text: 'ready' },
};

function useDots(): Partial<Record<string, Dot>> {
  const drawing = useDocument((state) => state.drawing);
  const sheets = useSheets((state) => state.sheets);
  const unknown = useSheets((state) => state.unknown);
  const hasFindings = useSheets((state) => state.found.length > 0);
  if (!drawing['page']) return {};
  const leaves = leavesOf(drawing);
  const hasItems = leaves.length > 0;
  const laid: Dot = unknown ? 'work' : sheets.length === 0 ? 'empty' : hasFindings ? 'findings' : 'ready';
  const pictures = leaves.filter((leaf) => leaf.kind === 'picture');
  const traced: Dot = pictures.length === 0 ? 'empty' : pictures.some((picture) => picture.trace?.result) ? 'ready' : 'work';
  const films = sheets.filter(({ layer }) => layer.type === 'film').length;
  const built: Dot = unknown ? 'work' : films === 0 ? 'empty' : 'ready';
  return { draw: hasItems ? 'work' : 'empty', trace: traced, build: built, layup: laid, send: laid };
}

function Track({ job }: { job: Job }) {
  const dots = useDots();
  return (
    <nav aria-label="Stations" className="flex h-full items-stretch">
      {STATIONS.map(({ slug, name }, index) => {
        const dot = DOTS[dots[slug] ?? 'empty'];
        const inside = (
          <>
            <span className={`size-2 ${dot.look}`} aria-hidden />
            <span>{name}</span>
          </>
        );
        const shape = 'relative flex items-center gap-2 px-3.5 border-r border-line first:border-l';
        return (
          <NavLink
            key={slug}
            to={`/jobs/${job.id}/${slug}`}
            title={`${name}: ${dot.text}  (${index + 1})`}
            className={({ isActive }) =>
              `${shape} ${isActive ? 'bg-sheet font-semibold after:absolute after:inset-x-0 after:bottom-0 after:h-[3px] after:bg-teal' : 'hover:bg-teal-wash'}`
            }
          >
            {inside}
          </NavLink>
        );
      })}
    </nav>
  );
}

/** To the Queue, with how many runs are under way. */
function QueueLink() {
  const active = useShop(
    (state) => (state.runs ?? []).filter((run) => ['working', 'paused', 'needs-you', 'waiting'].includes(run.state)).length,
  );
  return (
    <Hint text="Queue">
      <Link
        to="/queue"
        aria-label={`Queue, ${active} runs under way`}
        className="relative inline-flex size-7 items-center justify-center hover:bg-teal-wash"
      >
        <ListOrdered size={16} />
        {active > 0 ? (
          <span className="numerals absolute -top-1 -right-1 bg-teal px-1 text-[10px] leading-4 text-sheet">{active}</span>
        ) : null}
      </Link>
    </Hint>
  );
}

/** The bar above everything when a job is open. */
export function TopBar({ job }: { job: Job }) {
  const back = useDocument((state) => mayStep(state).back);
  const forward = useDocument((state) => mayStep(state).forward);
  // what this version does not know would be missing in the file without a word
  const mayWrite = useDocument((state) => state.save !== 'read-only');
  return (
    <header className="flex h-12 shrink-0 items-stretch border-b bg-paper">
      <Link
        to="/jobs"
        aria-label="Back to the jobs"
        title="Back to the jobs"
        className="flex items-center gap-1 border-r px-2.5 hover:bg-teal-wash"
      >
        <ArrowLeft size={15} aria-hidden />
        <Mark />
      </Link>
      <div className="flex min-w-0 flex-1 flex-col justify-center px-3">
        <span className="truncate leading-tight font-semibold" title={job.name}>
          {job.name}
        </span>
        <span className="truncate text-xs leading-tight text-ink-soft">
          {job.customer || 'No customer'}
          {JOB_STATES.includes(job.state) && job.dueOn ? ` · due ${job.dueOn}` : ''}
        </span>
      </div>
      <Track job={job} />
      <div className="flex flex-1 items-center justify-end gap-1 pr-2 pl-3">
        <InboxSign jobId={job.id} />
        <SaveStateMark />
        <IconButton label="Undo" keys="Ctrl Z" onClick={undo} disabled={!back}>
          <Undo2 size={16} />
        </IconButton>
        <IconButton label="Redo" keys="Ctrl Y" onClick={redo} disabled={!forward}>
          <Redo2 size={16} />
        </IconButton>
        <IconButton label="Versions" keys="Ctrl S" onClick={openVersions}>
          <Bookmark size={16} />
        </IconButton>
        <IconButton disabled={!mayWrite} label="Write to a file, proof, work ticket" onClick={openWriteOut}>
          <Download size={16} />
        </IconButton>
        <IconButton label="Search everything" keys="/" onClick={openSearch}>
          <Search size={16} />
        </IconButton>
        <QueueLink />
        <IconButton label="Keys" keys="?" onClick={openKeySheet}>
          <HelpCircle size={16} />
        </IconButton>
      </div>
      <Dialogs />
    </header>
  );
}
