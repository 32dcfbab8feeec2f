/** The Build station: which film is cut from where, how the sign is put together by hand, and what that costs. */
import { filmOf, isPrinted, leavesOf, pageOf, type Drawing } from '@lorvek/model';
import { Link } from 'react-router';
import { useShop } from '../../api/shop.ts';
import { useDocument } from '../../document/store.ts';
import { useView } from '../../drawing/view.ts';
import { workingText } from '../../frame/findings.tsx';
import { StationFrame } from '../../frame/station-frame.tsx';
import type { StationParts } from '../../frame/stations.ts';
import { ZoomGroup } from '../../frame/tool-bench.tsx';
import { Notice } from '../../ui/card.tsx';
import type { BuildAnswer } from '@lorvek/computations';
import { light, useBuild, useFollowBuild } from './build-store.ts';
import { CostCard, PlaceCard } from './cost-cards.tsx';
import { MeetCard, SmallCard, WeedCard } from './film-cards.tsx';
import { FlatView, fitBuild } from './flat-view.tsx';
import { StackView } from './stack-view.tsx';

/** The film that the ticket is about: the one chosen in the strip when something lies on it, else the topmost with work. */
function useActiveFilm(answer: BuildAnswer | undefined): string | undefined {
  const chosen = useView((state) => state.film);
  const worked = (answer?.layers ?? []).filter(({ drawn }) => drawn.contours.length > 0).map(({ film }) => film);
  return worked.includes(chosen ?? '') ? chosen : worked.at(-1);
}

function Steps({ drawing, answer, active }: { drawing: Drawing; answer: BuildAnswer; active: string | undefined }) {
  const lit = useBuild((state) => state.lit);
  return (
    <section aria-label="Order of laying" className="max-h-[210px] shrink-0 overflow-y-auto border-t bg-paper px-3 py-2">
      <h2 className="rule-label mb-1">Order of laying</h2>
      <ol className="flex flex-col">
        {answer.steps.map(({ film, text, heldBy }, i) => (
          <li key={film}>
            <button
              type="button"
              onPointerEnter={() => light(film)}
              onPointerLeave={() => light(undefined)}
              onClick={() => useView.setState({ film })}
              className={`flex w-full items-baseline gap-2 px-1 py-0.5 text-left hover:bg-teal-wash ${film === lit ? 'bg-teal-wash' : ''} ${film === active ? 'font-semibold' : ''}`}
            >
              <span className="size-3 shrink-0 self-center border border-line-strong" style={{ background: filmOf(drawing, film)?.hex }} />
              <span className="numerals">{i + 1}.</span>
              <span className="flex-1">{text}</span>
              <span className="text-[13px] font-normal text-ink-soft">{heldBy === null ? '' : `held by ${heldBy}`}</span>
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}

/** There is nothing to build of; print alone is laid up and printed as it is. */
function Empty({ drawing }: { drawing: Drawing }) {
  const isPrint = leavesOf(drawing).some((leaf) => isPrinted(drawing, leaf));
  return (
    <div className="flex h-full flex-col items-center justify-center gap-3 text-center">
      <h2 className="text-lg font-semibold">No film to build with</h2>
      <p className="max-w-sm text-ink-soft">
        {isPrint
          ? 'What is drawn here is printed, and goes on to Lay up as it is. Give something a film on Draw, and Build shows how the films lie on one another.'
          : 'Draw something and give it a film. Build shows how the films lie on one another.'}
      </p>
      <div className="flex gap-6">
        <Link to="../draw" relative="path" className="text-teal underline">
          To Draw
        </Link>
        {isPrint ? (
          <Link to="../layup" relative="path" className="text-teal underline">
            To Lay up
          </Link>
        ) : null}
      </div>
    </div>
  );
}

/** What is not known is said, not left out. */
function UnknownNotice({ count }: { count: number }) {
  if (count === 0) return null;
  return (
    <Notice level="stop">
      {count} {count === 1 ? 'item' : 'items'} could not be worked out: what is shown lacks {count === 1 ? 'it' : 'them'}. The Cut check
      says why.
    </Notice>
  );
}

/** About the film that is looked at, and about all of them. */
function Cards({ answer, active }: { answer: BuildAnswer; active: string | undefined }) {
  const drawing = useDocument((state) => state.drawing);
  const stock = useShop((state) => state.stock);
  const film = active === undefined ? undefined : filmOf(drawing, active);
  const view = answer.layers.find((layer) => layer.film === active);
  const entry = stock?.find(({ id }) => id === film?.stockId);
  return (
    <>
      <UnknownNotice count={answer.unknown.length} />
      {film && view ? (
        <>
          <MeetCard film={film} answer={answer} />
          <SmallCard film={film} small={view.small} />
          <WeedCard film={film} view={view} limits={entry} />
        </>
      ) : null}
      <PlaceCard answer={answer} film={film} />
      <CostCard answer={answer} />
    </>
  );
}

function BuildStation() {
  useFollowBuild();
  const drawing = useDocument((state) => state.drawing);
  const { answer, busy, share, error } = useBuild();
  const active = useActiveFilm(answer);
  const film = active === undefined ? undefined : filmOf(drawing, active);
  const { surface } = pageOf(drawing);
  const isEmpty = answer !== undefined && answer.steps.length === 0;
  return (
    <StationFrame
      zoom={<ZoomGroup name="build" onFit={fitBuild} />}
      ticket={answer ? <Cards answer={answer} active={active} /> : error ? <Notice level="stop">{error}</Notice> : null}
    >
      {answer && !isEmpty ? (
        <div className="flex h-full flex-col">
          <div className="flex min-h-0 flex-1">
            <section aria-label="Films pulled apart" className="flex min-w-0 flex-1 flex-col border-r bg-desk">
              <StackView drawing={drawing} answer={answer} surface={surface} />
            </section>
            <section aria-label="Film as it is cut" className="relative min-w-0 flex-1">
              <FlatView drawing={drawing} answer={answer} film={active} />
              <span className="pointer-events-none absolute top-7 right-2 bg-paper/85 px-2 text-xs">
                {film ? `${film.name}, as it is cut` : ''}
              </span>
            </section>
          </div>
          <Steps drawing={drawing} answer={answer} active={active} />
        </div>
      ) : isEmpty ? (
        <Empty drawing={drawing} />
      ) : null}
      {busy && !error ? (
        <p role="status" className="pointer-events-none absolute top-2 left-2 bg-paper/90 px-2 py-0.5 text-[13px] text-ink-soft">
          {workingText(share)}
        </p>
      ) : null}
    </StationFrame>
  );
}

export const station: StationParts = { View: BuildStation, fit: fitBuild };
