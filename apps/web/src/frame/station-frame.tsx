/** What every station has round it: measure line, film strip, drawing, ticket. */
import type { ReactNode } from 'react';
import { FilmStrip } from './film-strip.tsx';
import { MeasureLine } from './measure-line.tsx';

/** @param measure what the measure line is about, where that is not the drawing */
export function StationFrame({
  children,
  ticket,
  zoom,
  measure,
}: {
  children: ReactNode;
  ticket: ReactNode;
  zoom?: ReactNode;
  measure?: ReactNode;
}) {
  return (
    <>
      <MeasureLine zoom={zoom} about={measure} />
      <div className="flex min-h-0 flex-1">
        <FilmStrip />
        <main className="relative min-w-0 flex-1">{children}</main>
        <aside aria-label="Ticket" className="flex w-[300px] shrink-0 flex-col gap-2 overflow-y-auto border-l bg-paper p-2">
          {ticket}
        </aside>
      </div>
    </>
  );
}
