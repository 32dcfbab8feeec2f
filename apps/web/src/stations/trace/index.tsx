/** The Trace station: a picture becomes outlines. */
import { useEffect } from 'react';
import { Link } from 'react-router';
import { useDocument } from '../../document/store.ts';
import { StationFrame } from '../../frame/station-frame.tsx';
import type { StationParts } from '../../frame/stations.ts';
import { preview, tracedPicture, useTracing } from './trace-store.ts';
import { TraceTicket } from './ticket.tsx';
import { TraceViews } from './views.tsx';

function TraceStation() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const kept = useTracing((state) => state.picture);
  const picture = tracedPicture(drawing, kept && !selection.length ? [kept] : selection);
  useEffect(() => {
    if (picture) preview(picture);
    // only the picture and its settings decide what is traced
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [picture?.id, picture?.asset, JSON.stringify({ ...picture?.trace, result: null })]);
  if (!picture)
    return (
      <StationFrame ticket={null}>
        <div className="flex h-full flex-col items-center justify-center gap-3 text-center">
          <h2 className="text-lg font-semibold">No picture to trace</h2>
          <p className="max-w-sm text-ink-soft">Bring in a bitmap. Its colours become outlines that a blade can follow.</p>
          <Link to="../draw" relative="path" className="text-teal underline">
            Bring one in on Draw
          </Link>
        </div>
      </StationFrame>
    );
  return (
    <StationFrame ticket={<TraceTicket picture={picture} />}>
      <TraceViews picture={picture} />
    </StationFrame>
  );
}

export const station: StationParts = { View: TraceStation };
