/** The Draw station. */
import { DrawBench, ZoomGroup } from '../../frame/tool-bench.tsx';
import { FindingsChip } from '../../frame/findings.tsx';
import { StationFrame } from '../../frame/station-frame.tsx';
import type { StationParts } from '../../frame/stations.ts';
import { BenchSettings } from './bench-settings.tsx';
import { DrawingSurface, fitDrawing } from './drawing-surface.tsx';
import { DrawTicket } from './ticket.tsx';
import { QuestionDialog } from './bring-in/question-dialog.tsx';

function DrawStation() {
  return (
    <StationFrame ticket={<DrawTicket />} zoom={<ZoomGroup name="drawing" onFit={fitDrawing} />}>
      <DrawingSurface />
      <DrawBench settings={<BenchSettings />} />
      <FindingsChip />
      <QuestionDialog />
    </StationFrame>
  );
}

export const station: StationParts = { View: DrawStation, fit: fitDrawing };
