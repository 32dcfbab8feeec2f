/** A page that broke: what happened, and the ways out. What was made is safe on the server and in this browser. */
import { useRouteError } from 'react-router';
import { sentenceOf } from '../api/client.ts';
import { Button } from '../ui/button.tsx';

export function RouteError() {
  const error = useRouteError();
  return (
    <main className="flex h-full flex-col items-center justify-center gap-3 bg-desk" role="alert">
      <div className="panel flex max-w-lg flex-col gap-3 p-6 [--cut:16px]">
        <h1 className="text-xl font-semibold">This page broke</h1>
        <p>Nothing that was saved is harmed, and what waits to be saved is kept. Load the page again, or go on elsewhere.</p>
        <p className="numerals text-[13px] break-words text-ink-soft">{sentenceOf(error)}</p>
        <div className="flex gap-2">
          <Button look="main" onClick={() => window.location.reload()}>
            Load it again
          </Button>
          <a className="inline-flex h-8 items-center border border-line-strong px-3 hover:bg-teal-wash" href="/jobs">
            To the jobs
          </a>
        </div>
      </div>
    </main>
  );
}
