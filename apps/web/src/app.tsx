/** Pages and what lies over all of them. */
import { Tooltip } from 'radix-ui';
import { useEffect } from 'react';
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from 'react-router';
import { Toaster } from 'sonner';
import { followShop } from './api/shop.ts';
import { KeySheet } from './frame/key-sheet.tsx';
import { SearchBox } from './frame/search.tsx';
import { SignIn, useAccess } from './frame/sign-in.tsx';
import { BackupsPage } from './pages/backups.tsx';
import { InboxPage } from './pages/inbox.tsx';
import { JobPage } from './pages/job.tsx';
import { JobsPage } from './pages/jobs.tsx';
import { MachinesPage } from './pages/machines.tsx';
import { QueuePage } from './pages/queue.tsx';
import { RouteError } from './pages/route-error.tsx';
import { StockPage } from './pages/stock.tsx';

function Root() {
  const signingIn = useAccess((state) => state.open);
  useEffect(() => followShop(), []);
  return (
    <>
      <Outlet />
      <KeySheet />
      <SearchBox />
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
    // each has a way out of its own, so that the frame around it stays
    children: [
      { path: '/', element: <Navigate to="/jobs" replace /> },
      { path: '/jobs', element: <JobsPage /> },
      { path: '/jobs/:jobId', element: <Navigate to="draw" replace /> },
      { path: '/jobs/:jobId/:station', element: <JobPage /> },
      { path: '/queue', element: <QueuePage /> },
      { path: '/inbox', element: <InboxPage /> },
      { path: '/stock', element: <StockPage /> },
      { path: '/machines', element: <MachinesPage /> },
      { path: '/backups', element: <BackupsPage /> },
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
