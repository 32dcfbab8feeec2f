/** What can be done on a drawing, by name: for the search, which does what it finds. */
import {
  addEdgeCut,
  groupItems,
  itemOf,
  isShaped,
  treatmentFor,
  pageOf,
  reorderItems,
  setGuides,
  setTreatments,
  ungroupItems,
  type TreatmentKind,
} from '@lorvek/model';
import { toast } from 'sonner';
import { duplicateSelection } from '../document/clipboard.ts';
import { cutRound } from '../document/print-work.ts';
import { dispatch, newId, redo, select, undo, useDocument } from '../document/store.ts';
import { boxOf } from '../drawing/selection.ts';
import { useView, type ToolName } from '../drawing/view.ts';
import { openKeySheet } from './key-sheet-open.ts';
import { mirror } from './measure-line.tsx';
import { openVersions } from './dialogs-open.ts';

export interface NamedFunction {
  readonly name: string;
  /** Other words for it. */
  readonly also: string;
  go(): void;
}

function addGuide(axis: 'x' | 'y'): void {
  const { drawing, selection } = useDocument.getState();
  const { guides = [], surface } = pageOf(drawing);
  const box = boxOf(drawing, selection) ?? { minX: 0, minY: 0, maxX: surface.widthMm, maxY: surface.heightMm };
  const mm = Math.round(50 * (axis === 'x' ? box.minX + box.maxX : box.minY + box.maxY)) / 100;
  dispatch(setGuides, { guides: [...guides, { id: newId('guide'), axis, mm }] }, { origin: 'page.guides' });
}

/** Gives the selected item a treatment of a usual size. */
function addTreatment(kind: TreatmentKind): void {
  const { drawing, selection } = useDocument.getState();
  const item = itemOf(drawing, selection[0] ?? '');
  if (selection.length !== 1 || !item || item.kind === 'group' || !isShaped(item))
    return void toast.warning('Select one lettering or shape first.');
  const box = boxOf(drawing, [item.id]);
  const sizeMm = item.kind === 'lettering' ? item.capHeightMm : box ? Math.min(box.maxX - box.minX, box.maxY - box.minY) : 50;
  const treatments = [...(item.treatments ?? []), treatmentFor(drawing, item, kind, newId('treatment'), sizeMm)];
  dispatch(setTreatments, { id: item.id, treatments }, { origin: 'treatment.add' });
}

const tool = (name: ToolName) => (): void => useView.setState({ tool: name });
const selected = (): readonly string[] => useDocument.getState().selection;

/** What needs something selected says so when nothing is. */
const onSelected = (go: () => void) => (): void => {
  if (selected().length === 0) toast.warning('Nothing is selected.');
  else go();
};

export const FUNCTIONS: readonly NamedFunction[] = [
  { name: 'Upright guide', also: 'guide line vertical', go: () => addGuide('x') },
  { name: 'Level guide', also: 'guide line horizontal', go: () => addGuide('y') },
  { name: 'Ring', also: 'outline border round treatment', go: () => addTreatment('ring') },
  { name: 'Shade', also: 'shadow block drop cast treatment', go: () => addTreatment('shade') },
  { name: 'Two-tone', also: 'split colour treatment', go: () => addTreatment('two-tone') },
  { name: 'Bend', also: 'arch circle curve lettering treatment', go: () => addTreatment('bend') },
  { name: 'Mirror sideways', also: 'flip reverse', go: onSelected(() => mirror('sideways')) },
  { name: 'Mirror upside down', also: 'flip', go: onSelected(() => mirror('upside-down')) },
  {
    name: 'Group',
    also: 'together',
    go: () => void dispatch(groupItems, { ids: selected(), groupId: newId('item') }, { origin: 'item.group' }),
  },
  { name: 'Ungroup', also: 'apart', go: () => void dispatch(ungroupItems, { ids: selected() }, { origin: 'item.ungroup' }) },
  {
    name: 'To the front',
    also: 'order above',
    go: () => void dispatch(reorderItems, { ids: selected(), to: 'front' }, { origin: 'item.order' }),
  },
  {
    name: 'To the back',
    also: 'order below',
    go: () => void dispatch(reorderItems, { ids: selected(), to: 'back' }, { origin: 'item.order' }),
  },
  { name: 'Duplicate', also: 'copy', go: onSelected(duplicateSelection) },
  {
    name: 'Edge cut round the selection',
    also: 'kiss outline sticker label',
    go: onSelected(() => void cutRound(selected(), (args) => dispatch(addEdgeCut, args, { origin: 'edge-cut.add' }))),
  },
  { name: 'Select everything', also: 'all', go: () => select([...pageOf(useDocument.getState().drawing).root]) },
  { name: 'Lettering', also: 'text words write tool', go: tool('lettering') },
  { name: 'Box', also: 'rectangle square tool', go: tool('box') },
  { name: 'Measure', also: 'distance length tool', go: tool('measure') },
  { name: 'Nodes', also: 'points edit tool', go: tool('nodes') },
  { name: 'Known length', also: 'scale picture true size', go: tool('known-length') },
  { name: 'Blade view', also: 'direction starts order', go: () => useView.setState(({ blade }) => ({ blade: !blade })) },
  { name: 'Undo', also: 'back', go: undo },
  { name: 'Redo', also: 'forward again', go: redo },
  { name: 'Versions', also: 'keep save named', go: openVersions },
  { name: 'Keys', also: 'shortcuts keyboard', go: openKeySheet },
];
