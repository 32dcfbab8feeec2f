/** Pages and what lies over all of them. */
import { Tooltip } from 'radix-ui';
import { lazy, Suspense, useEffect, type ReactNode } from 'react';
import { BrowserRouter, Navigate, Route, Routes, useLocation } from 'react-router';
import { Toaster } from 'sonner';
import { followShop } from './api/shop.ts';
import { useKeySheet } from './frame/key-sheet-open.ts';
import { useSearch } from './frame/search-open.ts';
import { SignIn, useAccess } from './frame/sign-in.tsx';
import { PageBoundary } from './pages/page-boundary.tsx';

// each is fetched when it is wanted
const SearchBox = lazy(async () => ({ default: (await import('./frame/search.tsx')).SearchBox }));
const KeySheet = lazy(async () => ({ default: (await import('./frame/key-sheet.tsx')).KeySheet }));
const JobsPage = lazy(async () => ({ default: (await import('./pages/jobs.tsx')).JobsPage }));
const JobPage = lazy(async () => ({ default: (await import('./pages/job.tsx')).JobPage }));
const QueuePage = lazy(async () => ({ default: (await import('./pages/queue/index.tsx')).QueuePage }));
const InboxPage = lazy(async () => ({ default: (await import('./pages/inbox.tsx')).InboxPage }));
const StockPage = lazy(async () => ({ default: (await import('./pages/stock/index.tsx')).StockPage }));
const MachinesPage = lazy(async () => ({ default: (await import('./pages/machines/index.tsx')).MachinesPage }));
const BackupsPage = lazy(async () => ({ default: (await import('./pages/backups.tsx')).BackupsPage }));

/** A page of the whole shop, with its name on the tab. */
function Named({ name, children }: { name: string; children: ReactNode }) {
  useEffect(() => {
    document.title = `${name} – Lorvek`;
  }, [name]);
  return children;
}

/** Sentences that come up beside the work. */
function Toasts() {
  return (
    <Toaster
      position="bottom-left"
      offset={{ left: 208, bottom: 60 }}
      toastOptions={{
        style: {
          borderRadius: 0,
          background: 'var(--color-ink)',
          color: 'var(--color-sheet)',
          border: 'none',
          fontFamily: 'var(--font-sans)',
          fontSize: 14,
        },
      }}
    />
  );
}

/** What lies over all pages. */
function Over() {
  const searching = useSearch((state) => state.open);
  const isKeySheetOpen = useKeySheet((state) => state.open);
  const signingIn = useAccess((state) => state.open);
  return (
    <>
      <Suspense>
        {isKeySheetOpen ? <KeySheet /> : null}
        {searching ? <SearchBox /> : null}
      </Suspense>
      <SignIn />
      {signingIn ? null : <Toasts />}
    </>
  );
}

const PAGES = [
  ['/jobs', 'Jobs', JobsPage],
  ['/queue', 'Queue', QueuePage],
  ['/inbox', 'Inbox', InboxPage],
  ['/stock', 'Stock', StockPage],
  ['/machines', 'Machines', MachinesPage],
  ['/backups', 'Backups', BackupsPage],
] as const;

function Pages() {
  const { pathname } = useLocation();
  return (
    <PageBoundary place={pathname}>
      <Suspense fallback={<p className="p-6 text-ink-soft">Opening…</p>}>
        <Routes>
          {PAGES.map(([path, name, Page]) => (
            <Route
              key={path}
              path={path}
              element={
                <Named name={name}>
                  <Page />
                </Named>
              }
            />
          ))}
          <Route path="/jobs/:jobId" element={<Navigate to="draw" replace />} />
          <Route path="/jobs/:jobId/:station" element={<JobPage />} />
          <Route path="*" element={<Navigate to="/jobs" replace />} />
        </Routes>
      </Suspense>
    </PageBoundary>
  );
}

export function App() {
  useEffect(() => followShop(), []);
  return (
    <Tooltip.Provider>
      <BrowserRouter>
        <Pages />
        <Over />
      </BrowserRouter>
    </Tooltip.Provider>
  );
}
