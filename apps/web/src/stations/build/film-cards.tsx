/** How the chosen film meets those below, what of it is small or cannot be weeded. */
import { buildOf, filmsOf, isLeftOut, pageOf, setBuild, setFilmFields, type Film } from '@lorvek/model';
import type { Finding } from '@lorvek/core/check';
import { useState } from 'react';
import { dispatch, select, useDocument } from '../../document/store.ts';
import { flashAt } from '../../drawing/view.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { LengthField } from '../../ui/fields.tsx';
import type { BuildAnswer, BuiltView } from '@lorvek/computations';
import { attempt, bridge, cutWithBelow, drop, filmBelow, thicken } from './weed-remedies.ts';

const USUAL_TRAP_MM = 0.5;
const USUAL_LIMITS: Limits = { thinnestMm: 0.8, smallestPartMm: 2 };

const set = (id: string, fields: Parameters<typeof setFilmFields>[1]['fields']): boolean =>
  dispatch(setFilmFields, { id, fields }, { origin: 'film.build' });

export function MeetCard({ film, answer }: { film: Film; answer: BuildAnswer }) {
  const drawing = useDocument((state) => state.drawing);
  const { unit, surface } = pageOf(drawing);
  const build = buildOf(drawing);
  const isBottom = filmsOf(drawing)[0]?.id === film.id;
  const leftOut = isLeftOut(film);
  const hasTrap = film.build === 'inlay' || (film.inlaid?.length ?? 0) > 0;
  return (
    <Card title={`How ${film.name} is laid`} aside={<span className="size-4 border border-line-strong" style={{ background: film.hex }} />}>
      {film.visible ? null : <Notice level="note">It is hidden on the drawing; it is built and cut all the same.</Notice>}
      {answer.like.includes(film.id) ? (
        <Notice level="note">
          {surface.name} has this colour: left out, it is not cut, and the surface shows through the films below.{' '}
          <button type="button" className="text-teal underline" onClick={() => set(film.id, { leftOut: true })}>
            Leave it out
          </button>
        </Notice>
      ) : null}
      <Switch label={`Leave out: ${surface.name} shows instead`} checked={leftOut} onChange={(on) => set(film.id, { leftOut: on })} />
      {leftOut ? null : isBottom ? (
        <p className="text-ink-soft">It is the lowest film: it lies on {surface.name}.</p>
      ) : (
        <>
          <PickRow
            label="How it meets the films below"
            value={film.build ?? 'overlay'}
            options={[
              { value: 'overlay', label: 'Laid over the films below, which stay whole', content: 'Laid over' },
              { value: 'inlay', label: 'Let into the films below, which are cut out under it', content: 'Let in' },
            ]}
            onChange={(next) =>
              set(film.id, { build: next, ...(next === 'inlay' && film.trapMm === undefined ? { trapMm: USUAL_TRAP_MM } : {}) })
            }
          />
          {hasTrap ? (
            <LengthField
              wide
              label="Trap: how far films below reach under it"
              short="Trap"
              mm={film.trapMm ?? 0}
              unit={unit}
              minMm={0}
              onChange={(trapMm) => set(film.id, { trapMm })}
            />
          ) : null}
          {hasTrap && build.seenFromBothSides ? <p className="text-ink-soft">Seen from both sides: there is no trap.</p> : null}
        </>
      )}
      <Switch
        label="Glass, seen from both sides"
        checked={build.seenFromBothSides}
        onChange={(seenFromBothSides) => dispatch(setBuild, { fields: { seenFromBothSides } }, { origin: 'build.set' })}
      />
    </Card>
  );
}

/** Small parts that are listed one by one. */
const MOST_SHOWN = 60;

export function SmallCard({ film, small }: { film: Film; small: readonly string[] }) {
  const drawing = useDocument((state) => state.drawing);
  const inlaid = film.inlaid ?? [];
  const nameOf = (id: string): string => {
    const item = drawing[id];
    return item?.type === 'item' ? item.name : '';
  };
  if (small.length === 0 && inlaid.length === 0) return null;
  return (
    <Card title="Small parts on a fill">
      {small.length > 0 ? (
        <>
          <p className="text-ink-soft">
            {small.length === 1 ? 'One small part lies' : `${small.length} small parts lie`} on a film below and may slip. Let in, the fill
            holds {small.length === 1 ? 'it' : 'them'} all round.
          </p>
          <ul className="flex max-h-36 flex-col overflow-y-auto">
            {small.slice(0, MOST_SHOWN).map((id) => (
              <li key={id} className="flex items-center justify-between gap-2">
                <button type="button" className="min-w-0 truncate text-left hover:underline" onClick={() => select([id])}>
                  {nameOf(id)}
                </button>
                <Button size="small" onClick={() => set(film.id, { inlaid: [...inlaid, id] })}>
                  Let in
                </Button>
              </li>
            ))}
            {small.length > MOST_SHOWN ? <li className="text-[13px] text-ink-soft">and {small.length - MOST_SHOWN} more</li> : null}
          </ul>
          {small.length > 1 ? (
            <Button onClick={() => set(film.id, { inlaid: [...inlaid, ...small] })}>Let all {small.length} in</Button>
          ) : null}
        </>
      ) : null}
      {inlaid.length > 0 ? (
        <div className="flex items-center justify-between gap-2">
          <span>
            {inlaid.length} let in by {inlaid.length === 1 ? 'itself' : 'themselves'}
          </span>
          <Button size="small" onClick={() => set(film.id, { inlaid: [] })}>
            Lay over again
          </Button>
        </div>
      ) : null}
    </Card>
  );
}

interface Limits {
  readonly thinnestMm: number;
  readonly smallestPartMm: number;
}

/** By how much a part has to grow until it can be weeded, mm. */
function thickerBy({ code, box }: Finding, { thinnestMm, smallestPartMm }: Limits): number {
  const own = box ? Math.min(box.maxX - box.minX, box.maxY - box.minY) : 0;
  const by = code === 'thin-part' ? thinnestMm : Math.max(thinnestMm, smallestPartMm - own);
  return (Math.ceil(10 * by) + 1) / 10;
}

function Remedies({ finding, view, film, limits }: { finding: Finding; view: BuiltView; film: Film; limits: Limits }) {
  const below = filmBelow(film.id);
  if (finding.parts.length === 0) return null;
  const isWeeding = ['tiny-part', 'thin-part', 'island'].includes(finding.code);
  if (!isWeeding) return null;
  const thicker = thickerBy(finding, limits);
  return (
    <div className="mt-1 flex flex-wrap gap-1">
      {finding.code === 'thin-part' ? null : (
        <Button size="small" onClick={() => attempt(() => drop(finding))}>
          Drop it
        </Button>
      )}
      <Button size="small" onClick={() => thicken(finding, thicker)}>
        Thicken by {thicker} mm
      </Button>
      {finding.code === 'thin-part' ? null : (
        <Button size="small" onClick={() => attempt(() => bridge(finding, view, Math.max(0.5, 1.5 * limits.thinnestMm)))}>
          Join by a bridge
        </Button>
      )}
      {below ? (
        <Button size="small" onClick={() => cutWithBelow(finding, film.id)}>
          Cut from {below.name}
        </Button>
      ) : null}
    </div>
  );
}

const SHOWN = 12;

export function WeedCard({ film, view, limits }: { film: Film; view: BuiltView; limits: Limits | undefined }) {
  const [all, setAll] = useState(false);
  const { findings } = view;
  return (
    <Card title={`What cannot be weeded (${findings.length})`}>
      {limits === undefined ? <Notice level="warning">This film is not in Stock: what can be weeded of it is not known.</Notice> : null}
      {findings.length === 0 && limits !== undefined ? <p className="text-ink-soft">Everything of it can be weeded.</p> : null}
      <ul className="flex flex-col gap-2">
        {findings.slice(0, all ? undefined : SHOWN).map((finding, i) => (
          <li key={`${finding.code} ${finding.parts.join()} ${i}`} className="border-l-4 border-amber bg-amber-wash px-2 py-1 text-[13px]">
            <button
              type="button"
              className="text-left hover:underline"
              onClick={() => {
                select([...finding.parts]);
                const { box, place } = finding;
                if (box ?? place) flashAt(box ?? { minX: place?.x ?? 0, minY: place?.y ?? 0, maxX: place?.x ?? 0, maxY: place?.y ?? 0 });
              }}
            >
              {finding.text}
            </button>
            <Remedies finding={finding} view={view} film={film} limits={limits ?? USUAL_LIMITS} />
          </li>
        ))}
      </ul>
      {findings.length > SHOWN && !all ? <Button onClick={() => setAll(true)}>Show all {findings.length}</Button> : null}
    </Card>
  );
}
