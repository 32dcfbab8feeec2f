/** An open job: loads it, keeps its sheets and the events of others, and shows the station. */
import { useEffect, useState } from 'react';
import { Link, Navigate, useParams } from 'react-router';
import { AppError } from '@lorvek/core';
import { sliverOf } from '@lorvek/model';
import { sentenceOf } from '../api/client.ts';
import { listen } from '../api/events.ts';
import { closeDocument, noticeRemoteChange, openDocument, reconnectDocument, useDocument } from '../document/store.ts';
import { useFollowSheets } from '../document/sheets.ts';
import { useView } from '../drawing/view.ts';
import { followSliver } from '../worker/derived.ts';
import { TroubleBar } from '../frame/save-state.tsx';
import { useAccess } from '../frame/sign-in.tsx';
import { STATIONS } from '../frame/stations.ts';
import { TopBar } from '../frame/top-bar.tsx';
import { useShortcuts } from '../frame/shortcuts.ts';
import { Button } from '../ui/button.tsx';
import { tellFailure } from '../ui/tell.ts';
import { isStation, useStation, type Loaded } from './stations.ts';

const bringIn = (files: File[]): void =>
  void import('../stations/draw/bring-in/bring-in.ts').then(({ bringInAll }) => bringInAll(files)).catch(tellFailure);

/** The view of a station, while it comes, or when it could not be fetched. */
function StationView({ loaded: { parts, failed }, onAgain }: { loaded: Loaded; onAgain(): void }) {
  if (parts) return <parts.View />;
  if (!failed) return <p className="p-6 text-ink-soft">Opening…</p>;
  return (
    <main className="flex flex-1 flex-col items-center justify-center gap-3">
      <p className="max-w-md text-center">This station could not be fetched from the server. What you made is safe.</p>
      <Button look="main" onClick={onAgain}>
        Try again
      </Button>
    </main>
  );
}

function Opened() {
  const { station } = useParams();
  const job = useDocument((state) => state.job);
  useFollowSheets();
  const [attempt, setAttempt] = useState(0);
  const loaded = useStation(isStation(station) ? station : undefined, attempt);
  useShortcuts(loaded.parts, bringIn);
  const limit = useDocument((state) => (state.job ? sliverOf(state.drawing) : 0.3));
  useEffect(() => followSliver(limit), [limit]);
  const title = STATIONS.find(({ slug }) => slug === station)?.name;
  const name = job?.name;
  useEffect(() => {
    if (name !== undefined) document.title = `${name}${title ? ` – ${title}` : ''} – Lorvek`;
  }, [name, title]);
  if (!job) return null;
  return (
    <div className="flex h-full flex-col overflow-hidden">
      <TopBar job={job} />
      <TroubleBar />
      {isStation(station) ? (
        <StationView key={station} loaded={loaded} onAgain={() => setAttempt((n) => n + 1)} />
      ) : (
        <Navigate to={`/jobs/${job.id}/draw`} replace />
      )}
    </div>
  );
}

export function JobPage() {
  const { jobId = '' } = useParams();
  const [problem, setProblem] = useState<{ text: string; missing: boolean }>();
  const entered = useAccess((state) => state.entered);
  // what could not be opened is tried again when somebody has signed in; what is open stays as it is
  const attempt = problem ? entered : 0;
  useEffect(() => {
    if (entered > 0) reconnectDocument();
  }, [entered]);
  const openId = useDocument((state) => state.job?.id);
  useEffect(() => {
    let current = true;
    useView.setState({
      views: { drawing: undefined, build: undefined, layup: undefined, send: undefined },
      film: undefined,
      writing: undefined,
      blade: false,
      tool: 'select',
      flash: undefined,
    });
    setProblem(undefined);
    openDocument(jobId).catch((error: unknown) => {
      if (current) setProblem({ text: sentenceOf(error), missing: error instanceof AppError && error.code === 'input.missing' });
    });
    const stop = listen({ job: (event) => noticeRemoteChange(event.jobId, event.revision), open: reconnectDocument });
    return () => {
      current = false;
      stop();
      closeDocument();
    };
  }, [jobId, attempt]);
  if (problem) {
    return (
      <main className="flex h-full flex-col items-center justify-center gap-3">
        <h1 className="text-xl font-semibold">{problem.missing ? 'This job is not here' : 'The job could not be opened'}</h1>
        <p className="max-w-md text-center text-ink-soft">{problem.text}</p>
        <Link to="/jobs" className="text-teal underline">
          To the jobs
        </Link>
      </main>
    );
  }
  return openId === jobId ? <Opened /> : <p className="p-6 text-ink-soft">Opening the job…</p>;
}
