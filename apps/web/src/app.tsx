/** Pages and what lies over all of them. */
import { Tooltip } from 'radix-ui';
import { lazy, Suspense, useEffect } from 'react';
import { createBrowserRouter, Navigate, Outlet, RouterProvider, useMatches } from 'react-router';
import { Toaster } from 'sonner';
import { followShop } from './api/shop.ts';
import { KeySheet } from './frame/key-sheet.tsx';
import { useSearch } from './frame/search-open.ts';
import { SignIn, useAccess } from './frame/sign-in.tsx';
import { RouteError } from './pages/route-error.tsx';

const SearchBox = lazy(async () => ({ default: (await import('./frame/search.tsx')).SearchBox }));

function Root() {
  const searching = useSearch((state) => state.open);
  const signingIn = useAccess((state) => state.open);
  useEffect(() => followShop(), []);
  const page = useMatches().findLast(({ handle }) => typeof handle === 'string')?.handle as string | undefined;
  useEffect(() => {
    if (page !== undefined) document.title = `${page} – Lorvek`;
  }, [page]);
  return (
    <>
      <Outlet />
      <KeySheet />
      {searching ? (
        <Suspense>
          <SearchBox />
        </Suspense>
      ) : null}
      <SignIn />
      {signingIn ? null : (
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
      )}
    </>
  );
}

const router = createBrowserRouter([
  {
    element: <Root />,
    errorElement: <RouteError />,
    hydrateFallbackElement: <p className="p-6 text-ink-soft">Opening…</p>,
    // each has a way out of its own, so that the frame around it stays
    children: [
      { path: '/', element: <Navigate to="/jobs" replace /> },
      { path: '/jobs', handle: 'Jobs', lazy: async () => ({ Component: (await import('./pages/jobs.tsx')).JobsPage }) },
      { path: '/jobs/:jobId', element: <Navigate to="draw" replace /> },
      { path: '/jobs/:jobId/:station', lazy: async () => ({ Component: (await import('./pages/job.tsx')).JobPage }) },
      { path: '/queue', handle: 'Queue', lazy: async () => ({ Component: (await import('./pages/queue/index.tsx')).QueuePage }) },
      { path: '/inbox', handle: 'Inbox', lazy: async () => ({ Component: (await import('./pages/inbox.tsx')).InboxPage }) },
      { path: '/stock', handle: 'Stock', lazy: async () => ({ Component: (await import('./pages/stock/index.tsx')).StockPage }) },
      {
        path: '/machines',
        handle: 'Machines',
        lazy: async () => ({ Component: (await import('./pages/machines/index.tsx')).MachinesPage }),
      },
      { path: '/backups', handle: 'Backups', lazy: async () => ({ Component: (await import('./pages/backups.tsx')).BackupsPage }) },
      { path: '*', element: <Navigate to="/jobs" replace /> },
    ].map((route) => ({ ...route, errorElement: <RouteError /> })),
  },
]);

export function App() {
  return (
    <Tooltip.Provider>
      <RouterProvider router={router} />
    </Tooltip.Provider>
  );
}
