/** The keys that work everywhere in a job. Fields keep their own keys to themselves. */
import { growBox, translation } from '@lorvek/core/geometry';
import { groupItems, itemOf, pageOf, reorderItems, transformItems, ungroupItems } from '@lorvek/model';
import { useEffect } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { copySelection, cutSelection, duplicateSelection, isCopied, paste } from '../document/clipboard.ts';
import { dispatch, enterGroup, newId, redo, select, undo, useDocument } from '../document/store.ts';
import { deleteChosen, moveChosen } from '../drawing/node-work.ts';
import { remove } from '../drawing/remove.ts';
import { boxOf } from '../drawing/selection.ts';
import { fitBox, showTrueSize, useView, type ToolName } from '../drawing/view.ts';
import { isPassedOn } from '../ui/passed-keys.ts';
import { openKeySheet } from './key-sheet-open.ts';
import { mirror } from './measure-line.tsx';
import { openSearch } from './search-open.ts';
import { STATIONS, type StationParts } from './stations.ts';
import { openVersions } from './dialogs-open.ts';

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.isContentEditable);
const isDialogOpen = (): boolean => document.querySelector('[role="dialog"], [role="menu"], [role="listbox"]') !== null;

/** Ctrl S, also from within a field: the browser's own saving of the page is never what is meant. */
function isSaving(event: KeyboardEvent): boolean {
  const saves = (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 's';
  if (saves) event.preventDefault();
  return saves;
}

const TOOL_KEYS: Record<string, ToolName> = {
  s: 'select',
  l: 'lettering',
  b: 'box',
  o: 'oval',
  p: 'polygon',
  r: 'star',
  i: 'line',
  a: 'arc',
  h: 'freehand',
  c: 'curve',
  n: 'nodes',
  m: 'measure',
  k: 'known-length',
};
const ARROWS: Record<string, readonly [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

/** Keys of the drawing: elsewhere they would copy, double or take away what is not seen, and the page's words are not to be copied. */
function onDrawingWithControl(event: KeyboardEvent): boolean {
  const { selection, drawing } = useDocument.getState();
  const key = event.key.toLowerCase();
  if (selection.length === 0 && (key === 'c' || key === 'x')) return false;
  const actions: Record<string, () => void> = {
    c: () => void copySelection(),
    x: cutSelection,
    d: duplicateSelection,
    a: () => select([...pageOf(drawing).root]),
    g: () =>
      event.shiftKey
        ? dispatch(ungroupItems, { ids: selection }, { origin: 'item.ungroup' })
        : dispatch(groupItems, { ids: selection, groupId: newId('item') }, { origin: 'item.group' }),
  };
  const action = actions[key];
  action?.();
  return action !== undefined;
}

function withControl(event: KeyboardEvent, station: string): boolean {
  const everywhere: Record<string, () => void> = { z: event.shiftKey ? redo : undo, y: redo, s: openVersions };
  const key = event.key.toLowerCase();
  const action = everywhere[key];
  action?.();
  if (action) return true;
  // where there is nothing to select, the page's words are not selected instead
  return station === 'draw' ? onDrawingWithControl(event) : key === 'a';
}

let arrowGroup = { id: '', at: 0 };

/** Arrow keys: several presses in a row are one step of the history. */
function nudge(event: KeyboardEvent, [dx, dy]: readonly [number, number]): void {
  const { selection } = useDocument.getState();
  if (selection.length === 0) return;
  const step = useView.getState().stepMm * (event.shiftKey ? 10 : event.altKey ? 0.1 : 1);
  if (event.timeStamp - arrowGroup.at > 800) arrowGroup = { id: newId('nudge'), at: 0 };
  arrowGroup.at = event.timeStamp;
  if (useView.getState().tool === 'nodes' && moveChosen(dx * step, dy * step, arrowGroup.id)) return;
  dispatch(transformItems, { ids: selection, map: translation(dx * step, dy * step) }, { origin: 'item.nudge', group: arrowGroup.id });
}

/** Nothing else holds the keys: the drawing does, or nothing does. */
const isOnDrawing = (): boolean => document.activeElement === document.body || isDrawing(document.activeElement);
const isDrawing = (element: Element | null): element is HTMLElement =>
  element instanceof HTMLElement && element.dataset['drawing'] === 'drawing';

/** The next item; past the last one the key goes on to the next control. @returns whether there was one */
function nextItem(backwards: boolean): boolean {
  const { drawing, selection, entered } = useDocument.getState();
  const group = entered ? itemOf(drawing, entered) : undefined;
  const list = group?.kind === 'group' ? group.children : pageOf(drawing).root;
  const at = list.indexOf(selection[0] ?? '');
  const next = list[at < 0 ? (backwards ? list.length - 1 : 0) : at + (backwards ? -1 : 1)];
  if (next === undefined) return false;
  select([next]);
  return true;
}

/** Letters that are no tools. */
function onLetter(event: KeyboardEvent, fit: () => void): boolean {
  const actions: Record<string, () => void> = {
    v: () => useView.setState(({ blade }) => ({ blade: !blade })),
    f: () => (event.shiftKey ? fitSelection() : fit()),
    x: () => mirror(event.shiftKey ? 'upside-down' : 'sideways'),
  };
  const action = actions[event.key.toLowerCase()];
  action?.();
  return action !== undefined;
}

/** The selection in the middle of the view. */
function fitSelection(): void {
  const { drawing, selection } = useDocument.getState();
  const box = boxOf(drawing, selection);
  if (box) fitBox('drawing', growBox(box, 0.15 * Math.max(box.maxX - box.minX, box.maxY - box.minY)));
}

/** The chosen nodes, else the selection, go. */
function removeChosen(): void {
  if (useView.getState().tool === 'nodes' && deleteChosen()) return;
  remove(useDocument.getState().selection, { origin: 'item.remove' });
}

/** One step out: of the tool, the group, the selection, the drawing. */
function leave(): void {
  const { selection, entered } = useDocument.getState();
  if (useView.getState().tool !== 'select') useView.setState({ tool: 'select' });
  else if (entered) enterGroup(undefined);
  else if (selection.length === 0 && isDrawing(document.activeElement)) document.activeElement.blur();
  else select([]);
}

/** The words that are selected are written on. @returns are there any? */
function writeOn(): boolean {
  const { selection, drawing } = useDocument.getState();
  const [only, ...others] = selection;
  if (only === undefined || others.length > 0 || itemOf(drawing, only)?.kind !== 'lettering' || !isOnDrawing()) return false;
  useView.setState({ writing: only });
  return true;
}

function onDrawing(event: KeyboardEvent, fit: () => void): boolean {
  const { selection } = useDocument.getState();
  const arrow = ARROWS[event.key];
  const tool = TOOL_KEYS[event.key.toLowerCase()];
  if (arrow) nudge(event, arrow);
  else if (tool) useView.setState({ tool });
  else if (onLetter(event, fit)) return true;
  else if (event.key === '0') showTrueSize('drawing');
  else if (event.key === 'Delete' || event.key === 'Backspace') removeChosen();
  else if (event.key === ']' || event.key === '[')
    dispatch(reorderItems, { ids: selection, to: event.key === ']' ? 'front' : 'back' }, { origin: 'item.order' });
  else if (event.key === 'Tab' && isDrawing(document.activeElement)) return nextItem(event.shiftKey);
  else if (event.key === 'Escape') leave();
  else return event.key === 'Enter' && writeOn();
  return true;
}

/** What is pasted: files, or a drawing as text, go to `bringIn`; everything else is what was copied here. */
function usePasting(station: string, bringIn: (files: File[]) => void): void {
  useEffect(() => {
    const pasted = (event: ClipboardEvent): void => {
      if (isTyping(event.target) || isDialogOpen()) return;
      const files = [...(event.clipboardData?.files ?? [])];
      const text = event.clipboardData?.getData('text/plain').trim() ?? '';
      if (files.length > 0) bringIn(files);
      else if (/^(<\?xml[^>]*>\s*)?<svg[\s>]/.test(text)) bringIn([new File([text], 'Pasted.svg', { type: 'image/svg+xml' })]);
      else if (station === 'draw') paste();
      else if (isCopied()) toast.info('What you copied is pasted in Draw.');
      event.preventDefault();
    };
    window.addEventListener('paste', pasted);
    return () => window.removeEventListener('paste', pasted);
  }, [station, bringIn]);
}

/** Keys of a station's own view. */
function inStation(station: string, event: KeyboardEvent, fit: () => void): boolean {
  if (station === 'draw') return onDrawing(event, fit);
  if (event.key.toLowerCase() === 'f') fit();
  else if (event.key === '0') showTrueSize(station === 'build' ? 'build' : 'layup');
  return false;
}

/** Is the key somebody else's: of a field, a dialog, or a menu that it has just closed? */
const isTaken = (event: KeyboardEvent): boolean =>
  (event.defaultPrevented && !isPassedOn(event)) || (isTyping(event.target) && !isSaving(event)) || isDialogOpen();

/** What a key does while a job is open. @returns true when the browser shall do nothing of its own with it */
function onKey(event: KeyboardEvent, station: string, parts: StationParts | undefined, open: (slug: string) => void): boolean {
  if (parts?.onKey?.(event)) return true;
  if (event.ctrlKey || event.metaKey) return withControl(event, station);
  if (event.key === '?') openKeySheet();
  else if (event.key === '/') openSearch();
  else {
    const target = STATIONS[Number(event.key) - 1];
    if (!target || event.key === '0') return inStation(station, event, parts?.fit ?? (() => undefined));
    open(target.slug);
    return false;
  }
  return true;
}

/** Listens while a job is open. `parts` are the shown station's, once they are there; `bringIn` takes files that are pasted. */
export function useShortcuts(parts: StationParts | undefined, bringIn: (files: File[]) => void): void {
  const navigate = useNavigate();
  const { pathname } = useLocation();
  const station = pathname.split('/').at(-1) ?? '';
  usePasting(station, bringIn);
  useEffect(() => {
    const down = (event: KeyboardEvent): void => {
      const open = (slug: string): void => {
        const jobId = useDocument.getState().job?.id;
        if (jobId) void navigate(`/jobs/${jobId}/${slug}`);
      };
      if (!isTaken(event) && onKey(event, station, parts, open)) event.preventDefault();
    };
    window.addEventListener('keydown', down);
    return () => window.removeEventListener('keydown', down);
  }, [navigate, station, parts]);
}
