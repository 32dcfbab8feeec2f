/**
 * The Queue: what is to be done, machine by machine in its order, then what is finished; found by words, machine and
 * state, together by job when wanted; what was done today.
 */
import { isMovable, OPEN_STATES, type Run, type RunTotals } from '@lorvek/model';
import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { addDays, startOfDay } from 'date-fns';
import { GripVertical } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { Button } from '../../ui/button.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { tellFailure } from '../../ui/tell.ts';
import { Empty, ShopPage } from '../shop-page.tsx';
import { RunDialog } from './run-dialog.tsx';
import { RunRow } from './run-row.tsx';
import { several } from '../../ui/several.ts';

type Shown = 'all' | 'open' | 'over';
const EVERY_MACHINE = 'every';

interface Wanted {
  readonly words: string;
  readonly machine: string;
  readonly shown: Shown;
}

const isOpen = ({ state }: Run): boolean => (OPEN_STATES as readonly string[]).includes(state);

function isWanted(run: Run, { words, machine, shown }: Wanted): boolean {
  if (machine !== EVERY_MACHINE && run.machineId !== machine) return false;
  if (shown !== 'all' && isOpen(run) !== (shown === 'open')) return false;
  const text = `${run.jobName} ${run.title} ${run.machineName} ${run.code ?? ''}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

/** In the order of their first ones. */
function grouped<K>(runs: readonly Run[], keyOf: (run: Run) => K): [K, Run[]][] {
  const groups = new Map<K, Run[]>();
  for (const run of runs) groups.set(keyOf(run), [...(groups.get(keyOf(run)) ?? []), run]);
  return [...groups];
}

/** What was done since midnight; asked again when a run is over. */
function useToday(over: number): RunTotals | undefined {
  const [totals, setTotals] = useState<RunTotals>();
  useEffect(() => {
    let current = true;
    const from = startOfDay(new Date());
    void api
      .runTotals(from, addDays(from, 1))
      .then((found) => current && setTotals(found))
      // a dash stands where the figures would
      .catch(() => current && setTotals(undefined));
    return () => {
      current = false;
    };
  }, [over]);
  return totals;
}

function Today({ totals }: { totals: RunTotals | undefined }) {
  if (!totals) return <p className="text-[13px] text-ink-soft">Today: –</p>;
  const ink = Object.values(totals.inkMl).reduce((a, b) => a + b, 0);
  const parts = [
    `${totals.cuts} cut`,
    `${totals.prints} printed`,
    `${(totals.filmMm / 1000).toFixed(2)} m of material`,
    `${(totals.cutMm / 1000).toFixed(1)} m of cut`,
    ...(ink > 0 ? [`${ink.toFixed(1)} ml of ink`] : []),
    ...(totals.failed > 0 ? [`${totals.failed} failed`] : []),
  ];
  return (
    <p className="numerals text-[13px] text-ink-soft" data-testid="today">
      Today: {parts.join(' · ')}
    </p>
  );
}

function MovableRow({ run, isFirst, onLook }: { run: Run; isFirst: boolean; onLook(): void }) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: run.id, disabled: !isMovable(run) });
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition, zIndex: isDragging ? 10 : 'auto', position: 'relative' }}
    >
      <RunRow
        run={run}
        mayGoFirst={isMovable(run) && !isFirst}
        onLook={onLook}
        grip={
          isMovable(run) ? (
            <button
              type="button"
              aria-label={`Move ${run.title} of ${run.jobName} in the queue: space, then arrow keys`}
              className="-mr-2 -ml-1 flex w-5 shrink-0 cursor-grab items-center justify-center text-ink-soft hover:text-ink"
              {...attributes}
              {...listeners}
            >
              <GripVertical size={16} />
            </button>
          ) : undefined
        }
      />
    </li>
  );
}

/** What a machine has to do, in its order; dragged or moved by keys among those that wait. */
function MachineLane({ runs, onLook }: { runs: readonly Run[]; onLook(id: string): void }) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const movable = runs.filter(isMovable);
  const drop = ({ active, over }: DragEndEvent): void => {
    const [from, to] = [active.id, over?.id].map((id) => movable.findIndex((run) => run.id === id));
    if (from === undefined || to === undefined || from < 0 || to < 0 || from === to) return;
    const others = movable.filter(({ id }) => id !== active.id);
    void api.placeRun(String(active.id), others[to]?.id ?? null).catch(tellFailure);
  };
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
      <SortableContext items={runs.map(({ id }) => id)} strategy={verticalListSortingStrategy}>
        <ul className="flex flex-col gap-3">
          {runs.map((run) => (
            <MovableRow key={run.id} run={run} isFirst={movable[0]?.id === run.id} onLook={() => onLook(run.id)} />
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  );
}

function Heading({ name, children }: { name: string; children?: string }) {
  return (
    <h2 className="flex items-baseline gap-3 border-b border-line-strong pb-1 font-semibold">
      {name} {children ? <span className="numerals text-[13px] font-normal text-ink-soft">{children}</span> : null}
    </h2>
  );
}

function Lanes({ runs, byJob, onLook }: { runs: readonly Run[]; byJob: boolean; onLook(id: string): void }) {
  const open = runs.filter(isOpen).sort((a, b) => a.place - b.place);
  const over = runs.filter((run) => !isOpen(run));
  if (byJob)
    return grouped([...open, ...over], ({ jobId }) => jobId).map(([jobId, own]) => (
      <section key={jobId} className="flex flex-col gap-3" aria-label={own[0]?.jobName}>
        <Heading
          name={own[0]?.jobName ?? ''}
        >{`${several(own.filter(isOpen).length, 'run')} to do, ${own.filter(({ state }) => state === 'done').length} done`}</Heading>
        <ul className="flex flex-col gap-3">
          {own.map((run) => (
            <li key={run.id}>
              <RunRow run={run} onLook={() => onLook(run.id)} />
            </li>
          ))}
        </ul>
      </section>
    ));
  return (
    <>
      {grouped(open, ({ machineId }) => machineId).map(([machineId, own]) => (
        <section key={machineId} className="flex flex-col gap-3" aria-label={`To do on ${own[0]?.machineName ?? ''}`}>
          <Heading name={own[0]?.machineName ?? ''}>{several(own.length, 'run')}</Heading>
          <MachineLane runs={own} onLook={onLook} />
        </section>
      ))}
      {over.length > 0 ? (
        <section className="flex flex-col gap-3" aria-label="Finished">
          <Heading name="Finished" />
          <ul className="flex flex-col gap-3">
            {over.map((run) => (
              <li key={run.id}>
                <RunRow run={run} onLook={() => onLook(run.id)} />
              </li>
            ))}
          </ul>
        </section>
      ) : null}
    </>
  );
}

interface FiltersProps {
  readonly wanted: Wanted;
  readonly byJob: boolean;
  set(fields: Partial<Wanted>): void;
  onByJob(byJob: boolean): void;
}

function Filters({ wanted, byJob, set, onByJob }: FiltersProps) {
  const machines = useShop((state) => state.machines);
  return (
    <div className="mb-4 flex flex-wrap items-end gap-3">
      <input
        type="search"
        aria-label="Search the queue"
        placeholder="Job, film, code"
        value={wanted.words}
        onChange={(event) => set({ words: event.target.value })}
        className="h-8 w-56 border border-line-strong bg-sheet px-2"
      />
      <div className="w-52">
        <Pick
          label="Machine"
          hideLabel
          value={wanted.machine}
          options={[
            { value: EVERY_MACHINE, text: 'Every machine' },
            ...(machines ?? []).map(({ id, name }) => ({ value: id, text: name })),
          ]}
          onChange={(machine) => set({ machine })}
        />
      </div>
      <PickRow<Shown>
        label="What is shown"
        value={wanted.shown}
        options={[
          { value: 'all', label: 'Everything', content: 'Everything' },
          { value: 'open', label: 'To do', content: 'To do' },
          { value: 'over', label: 'Finished', content: 'Finished' },
        ]}
        onChange={(next) => set({ shown: next })}
      />
      <Switch label="By job" checked={byJob} onChange={onByJob} />
    </div>
  );
}

/** The server lists so many that are over at a time. */
const LISTED = 200;

/** The runs that the server tells of by itself, and the older ones that were asked for. */
function useRuns(): { runs: readonly Run[] | undefined; over: number; mayBeMore: boolean; showOlder(): void } {
  const told = useShop((state) => state.runs);
  const [older, setOlder] = useState<readonly Run[]>([]);
  const [isWhole, setWhole] = useState(false);
  const runs = useMemo(() => {
    const known = new Set(told?.map(({ id }) => id));
    return told && [...told, ...older.filter(({ id }) => !known.has(id))];
  }, [told, older]);
  const over = (runs ?? []).filter((run) => !isOpen(run));
  const showOlder = (): void =>
    void api
      .runsBefore(Math.min(...over.map(({ place }) => place)))
      .then((more) => {
        setOlder([...older, ...more]);
        setWhole(more.length < LISTED);
      })
      .catch(tellFailure);
  return { runs, over: over.length, mayBeMore: over.length >= LISTED && !isWhole, showOlder };
}

export function QueuePage() {
  const { runs, over, mayBeMore, showOlder } = useRuns();
  const [looking, setLooking] = useState<string>();
  const [wanted, setWanted] = useState<Wanted>({ words: '', machine: EVERY_MACHINE, shown: 'all' });
  const [byJob, setByJob] = useState(false);
  const totals = useToday(over);
  const shown = (runs ?? []).filter((run) => isWanted(run, wanted));
  const looked = runs?.find((run) => run.id === looking);
  const set = (fields: Partial<Wanted>): void => setWanted({ ...wanted, ...fields });
  return (
    <ShopPage title="Queue" actions={<Today totals={totals} />}>
      {runs?.length === 0 ? (
        <Empty title="Nothing has been sent yet">
          <p className="text-ink-soft">Open a job, lay its work up on a roll and send it. Each sheet becomes one run here.</p>
          <Link to="/jobs" className="text-teal underline">
            To the jobs
          </Link>
        </Empty>
      ) : (
        <>
          <Filters wanted={wanted} byJob={byJob} set={set} onByJob={setByJob} />
          <div className="flex flex-col gap-5">
            <Lanes runs={shown} byJob={byJob} onLook={setLooking} />
          </div>
          {shown.length === 0 && runs ? (
            <p className="py-8 text-center text-ink-soft">No run is like that. Take a word or a filter away.</p>
          ) : null}
          {mayBeMore ? (
            <div className="flex justify-center py-4">
              <Button onClick={showOlder}>Show older runs</Button>
            </div>
          ) : null}
        </>
      )}
      {looked ? <RunDialog run={looked} onClose={() => setLooking(undefined)} /> : null}
    </ShopPage>
  );
}
