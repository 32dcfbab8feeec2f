/** The Lay up station: what is cut, from which material, how it lies there. */
import { layUpOf, pageOf, seriesOf } from '@lorvek/model';
import { useSheets } from '../../document/sheets.ts';
import { useDocument } from '../../document/store.ts';
import { FindingsChip } from '../../frame/findings.tsx';
import { StationFrame } from '../../frame/station-frame.tsx';
import type { StationParts } from '../../frame/stations.ts';
import { ZoomGroup } from '../../frame/tool-bench.tsx';
import { Notice } from '../../ui/card.tsx';
import { useActiveSheet } from './active.ts';
import { FillCard, WeedCard } from './fill-card.tsx';
import { InksCard } from './inks-card.tsx';
import { MarksCard } from './marks-card.tsx';
import { MaterialCard } from './material-card.tsx';
import { WhiteCard } from './white-card.tsx';
import { onLayUpKey } from './laying.ts';
import { LayUpMeasure } from './measure.tsx';
import { usePanelsView } from './panels-card.tsx';
import { PanelsView } from './panels-view.tsx';
import { RowsTable } from './series/rows-table.tsx';
import { SeriesCard } from './series/series-card.tsx';
import { useSeriesView } from '../../series/view.ts';
import { ScopeCard } from './scope-card.tsx';
import { fitLayUp, LayUpSurface } from './surface.tsx';

function LayUpStation() {
  const drawing = useDocument((state) => state.drawing);
  const active = useActiveSheet();
  const { busy, unknown } = useSheets();
  const { unit } = pageOf(drawing);
  const series = seriesOf(drawing);
  const rowsOpen = useSeriesView((state) => state.rowsOpen);
  const panelsOpen = usePanelsView((state) => state.open);
  const panels = active?.filled.panels;
  const record = active ? layUpOf(drawing, active.layer.id) : undefined;
  return (
    <StationFrame
      zoom={<ZoomGroup name="layup" onFit={fitLayUp} />}
      measure={<LayUpMeasure />}
      ticket={
        <>
          <ScopeCard />
          {active && record ? (
            <>
              <MaterialCard sheet={active} record={record} unit={unit} />
              <FillCard sheet={active} record={record} unit={unit} />
              <SeriesCard sheet={active} unit={unit} />
              <WeedCard sheet={active} record={record} unit={unit} />
              <MarksCard sheet={active} unit={unit} />
              <WhiteCard sheet={active} unit={unit} /> <InksCard sheet={active} />
            </>
          ) : busy || unknown ? null : (
            <Notice level="note">Nothing to lay up yet. Draw something and give it a film.</Notice>
          )}
        </>
      }
    >
      <div className="flex h-full flex-col">
        <div className="relative min-h-0 flex-1">
          <LayUpSurface />
          <FindingsChip withRolls />
        </div>
        {active && panels && panelsOpen && record?.fill.kind === 'panels' ? (
          <PanelsView sheet={active} fill={record.fill} laid={panels} unit={unit} />
        ) : null}
        {series && rowsOpen ? <RowsTable series={series} /> : null}
      </div>
    </StationFrame>
  );
}

export const station: StationParts = { View: LayUpStation, fit: fitLayUp, onKey: onLayUpKey };
