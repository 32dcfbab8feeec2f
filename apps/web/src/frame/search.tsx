/** Search everything: what can be done, jobs, items of the open job, films in stock, stations and pages. */
import { leavesOf, type Job } from '@lorvek/model';
import { Dialog as RadixDialog } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { api } from '../api/client.ts';
import { useShop } from '../api/shop.ts';
import { select, useDocument } from '../document/store.ts';
import { boxOf } from '../drawing/selection.ts';
import { fitBox, flashAt } from '../drawing/view.ts';
import { FUNCTIONS } from './functions.ts';
import { useSearch } from './search-open.ts';
import { tellFailure } from '../ui/tell.ts';

const close = (): void => useSearch.setState({ open: false });

interface Hit {
  key: string;
  name: string;
  kind: string;
  /** Other words that find it. */
  also?: string;
  go(): void;
}

const MOST_HITS = 12;
const PAGES = [
  ['/jobs', 'Jobs'],
  ['/queue', 'Queue'],
  ['/stock', 'Stock'],
  ['/machines', 'Machines'],
  ['/inbox', 'Inbox'],
  ['/backups', 'Backups'],
] as const;

function showItem(id: string): void {
  select([id]);
  const box = boxOf(useDocument.getState().drawing, [id]);
  if (!box) return;
  fitBox('drawing', box, 140);
  flashAt(box);
}

/** Everything that can be gone to, while somebody looks for it. */
function useHits(open: boolean): Hit[] {
  const navigate = useNavigate();
  const { job, drawing } = useDocument();
  const stock = useShop((state) => state.stock);
  const [jobs, setJobs] = useState<Job[]>([]);
  useEffect(() => {
    if (open) api.jobs(false).then(setJobs).catch(tellFailure);
  }, [open]);
  const goTo = (path: string): void => void navigate(path);
  return [
    ...(open && job && drawing['page']
      ? FUNCTIONS.map(({ name, also, go }): Hit => ({
          key: `do ${name}`,
          name,
          also,
          kind: 'do it',
          go: () => {
            goTo(`/jobs/${job.id}/draw`);
            setTimeout(go, 60);
          },
        }))
      : []),
    ...(open && job && drawing['page']
      ? leavesOf(drawing).map((leaf): Hit => ({
          key: leaf.id,
          name: leaf.name,
          kind: 'on this drawing',
          go: () => {
            goTo(`/jobs/${job.id}/draw`);
            setTimeout(() => showItem(leaf.id), 60);
          },
        }))
      : []),
    ...jobs.map((j): Hit => ({
      key: j.id,
      name: j.name,
      kind: `job${j.customer ? ` · ${j.customer}` : ''}`,
      go: () => goTo(`/jobs/${j.id}/draw`),
    })),
    ...PAGES.map(([path, name]): Hit => ({ key: path, name, kind: 'page', go: () => goTo(path) })),
    ...(stock ?? []).map((film): Hit => ({
      key: film.id,
      name: `${film.series} ${film.name}`,
      kind: 'film in Stock',
      go: () => goTo('/stock'),
    })),
  ];
}

export function SearchBox() {
  const open = useSearch((state) => state.open);
  const [wanted, setWanted] = useState('');
  const [at, setAt] = useState(0);
  useEffect(() => {
    if (!open) return;
    setWanted('');
    setAt(0);
  }, [open]);

  const all = useHits(open);
  const text = wanted.trim().toLowerCase();
  // functions are found by their words; without a word they would stand before everything
  const hits = all
    .filter((hit) => (text !== '' || hit.also === undefined) && `${hit.name} ${hit.also ?? ''} ${hit.kind}`.toLowerCase().includes(text))
    .slice(0, MOST_HITS);
  const choose = (hit: Hit | undefined): void => {
    close();
    hit?.go();
  };
  return (
    <RadixDialog.Root open={open} onOpenChange={(next) => !next && close()}>
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <RadixDialog.Content aria-describedby={undefined} className="panel fixed top-20 left-1/2 z-50 w-[560px] -translate-x-1/2">
          <RadixDialog.Title className="sr-only">Search everything</RadixDialog.Title>
          <input
            autoFocus
            aria-label="Search everything"
            placeholder="A job, an item on this drawing, a film, a page, or what to do"
            value={wanted}
            onChange={(event) => {
              setWanted(event.target.value);
              setAt(0);
            }}
            onKeyDown={(event) => {
              if (event.key === 'Enter') choose(hits[at]);
              if (event.key === 'ArrowDown') setAt(Math.min(hits.length - 1, at + 1));
              if (event.key === 'ArrowUp') setAt(Math.max(0, at - 1));
            }}
            className="h-11 w-full border-b bg-transparent px-3 text-base outline-none"
          />
          <ul className="max-h-96 overflow-y-auto py-1">
            {hits.map((hit, i) => (
              <li key={hit.key}>
                <button
                  type="button"
                  onClick={() => choose(hit)}
                  className={`flex w-full items-baseline justify-between gap-4 px-3 py-1.5 text-left hover:bg-teal-wash ${i === at ? 'bg-teal-wash' : ''}`}
                >
                  <span className="truncate">{hit.name}</span>
                  <span className="shrink-0 text-xs text-ink-soft">{hit.kind}</span>
                </button>
              </li>
            ))}
            {hits.length === 0 ? <li className="px-3 py-3 text-ink-soft">Nothing is called “{wanted}”.</li> : null}
          </ul>
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
