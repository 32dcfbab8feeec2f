/** What of the drawing goes onto material. */
import { layerOf, layersOf, pageOf, setScope, type Scope } from '@lorvek/model';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useEffect } from 'react';
import { useSheets } from '../../document/sheets.ts';
import { dispatch, select, useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';
import { workingText } from '../../frame/findings.tsx';
import { Card } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { useActiveSheet } from './active.ts';

/** In words what will be cut. */
export function describeScope(scope: Scope, sheets: readonly SheetPlan[]): string {
  const layers = [...new Map(sheets.map(({ layer }) => [layer.id, layer])).values()];
  const films = layers.map(({ name }) => name).join(', ');
  // an item with treatments is cut from several films and still one item
  const items = new Set(sheets.flatMap((sheet) => sheet.itemIds)).size;
  if (sheets.length === 0) return 'Nothing: no item in this choice is cut from a film or printed.';
  const kinds = new Set(sheets.map(({ layer }) => layer.type));
  const noun = kinds.size > 1 ? 'layer' : kinds.has('print') ? 'print' : 'film';
  const from = `${items} ${items === 1 ? 'item' : 'items'} from ${layers.length} ${layers.length === 1 ? noun : `${noun}s`} (${films})`;
  if (scope.kind === 'everything') return `Everything: ${from}.`;
  return scope.kind === 'layer' ? `One film: ${from}.` : `The selection: ${from}.`;
}

export function ScopeCard() {
  const drawing = useDocument((state) => state.drawing);
  const selection = useDocument((state) => state.selection);
  const { sheets, busy, share, error } = useSheets();
  const active = useActiveSheet();
  const { scope, layers: films } = pageOf(drawing);
  const film = useView((state) => state.film);
  // with one film chosen, the strip chooses which
  useEffect(() => {
    if (scope.kind === 'layer' && film !== undefined && film !== scope.layer && layerOf(drawing, film))
      dispatch(setScope, { scope: { kind: 'layer', layer: film } }, { origin: 'page.scope' });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only when another film is chosen in the strip
  }, [film]);
  const choose = (kind: Scope['kind']): void => {
    const filmId = film ?? active?.layer.id ?? films[0];
    if (kind === 'layer' && !filmId) return;
    const next: Scope =
      kind === 'everything' ? { kind } : kind === 'layer' ? { kind, layer: filmId as string } : { kind, items: [...selection] };
    dispatch(setScope, { scope: next }, { origin: 'page.scope' });
  };
  return (
    <Card title="What is cut">
      <PickRow
        label="What is cut"
        value={scope.kind}
        options={[
          { value: 'everything', label: 'Everything', content: 'Everything' },
          { value: 'layer', label: 'One film or print', content: 'One film' },
          { value: 'selection', label: 'The selection', content: 'Selection' },
        ]}
        onChange={choose}
      />
      {scope.kind === 'layer' ? (
        <Pick
          label="Film or print"
          value={scope.layer}
          options={layersOf(drawing).map((layer) => ({ value: layer.id, text: `${layer.series} ${layer.name}` }))}
          onChange={(layer) => dispatch(setScope, { scope: { kind: 'layer', layer } }, { origin: 'page.scope' })}
        />
      ) : null}
      {busy && sheets.length === 0 && !error ? (
        <p role="status" className="text-ink-soft">
          {workingText(share)}
        </p>
      ) : (
        <p>{error ?? describeScope(scope, sheets)}</p>
      )}
      {scope.kind === 'selection' ? (
        <button type="button" className="self-start text-teal underline" onClick={() => select(scope.items)}>
          Show this selection on the drawing
        </button>
      ) : null}
    </Card>
  );
}
