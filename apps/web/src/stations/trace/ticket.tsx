/** The Trace ticket: cleaning, colours, outline, and what it comes to. */
import type { PictureItem } from '@lorvek/model';
import { useDocument } from '../../document/store.ts';
import { filmsOf } from '@lorvek/model';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { nearestFilm } from '../../document/match-films.ts';
import { placeTrace, setTrace, stop, USUAL, useTracing } from './trace-store.ts';

function Colours({ picture }: { picture: PictureItem }) {
  const settings = picture.trace ?? USUAL;
  const { answer, seen } = useTracing();
  const films = filmsOf(useDocument((state) => state.drawing));
  const found = answer?.layers.length ?? 0;
  return (
    <Card title="Colours">
      <Switch
        label="As many as are found"
        checked={settings.colours === null}
        onChange={(on) => setTrace(picture, { colours: on ? null : Math.max(1, found + (answer?.ground ? 1 : 0)) })}
      />
      {settings.colours === null ? null : (
        <NumberField
          wide
          label="Colours at most, the ground's too"
          short="At most"
          value={settings.colours}
          decimals={0}
          min={1}
          max={64}
          onChange={(colours) => setTrace(picture, { colours: Math.round(colours) })}
        />
      )}
      {answer?.ground ? (
        <div className="flex items-center gap-2 text-[13px] text-ink-soft">
          <span className="size-5 border border-line-strong" style={{ background: answer.ground }} /> ground, not traced
        </div>
      ) : null}
      <ul className="flex flex-col gap-1">
        {seen.map((hex) => {
          const out = settings.leaveOut.includes(hex);
          const film = films.find(({ id }) => id === nearestFilm(hex, films).film);
          return (
            <li key={hex}>
              <button
                type="button"
                aria-pressed={!out}
                aria-label={`${hex}${out ? ', left out' : ''}`}
                title={out ? 'Click to trace it again' : 'Click to leave it out'}
                onClick={() =>
                  setTrace(picture, { leaveOut: out ? settings.leaveOut.filter((one) => one !== hex) : [...settings.leaveOut, hex] })
                }
                className={`flex w-full items-center gap-2 border border-line-strong bg-sheet px-2 py-1 text-left text-[13px] hover:bg-teal-wash ${out ? 'opacity-45 line-through' : ''}`}
              >
                <span className="size-5 shrink-0 border border-line-strong" style={{ background: hex }} />
                <span className="numerals">{hex}</span>
                <span className="min-w-0 flex-1 truncate text-right text-ink-soft">
                  {out ? 'left out' : (film?.name ?? 'no film like it')}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </Card>
  );
}

export function TraceTicket({ picture }: { picture: PictureItem }) {
  const settings = picture.trace ?? USUAL;
  const { answer, busy, problem } = useTracing();
  return (
    <>
      <Card title="Trace">
        <Figure name="Picture">
          {picture.widthPx} × {picture.heightPx}
        </Figure>
        <Figure name="Colours">{answer ? answer.layers.length : '…'}</Figure>
        <Figure name="Nodes">{answer ? answer.nodes : '…'}</Figure>
        {problem ? <Notice level="warning">{problem}</Notice> : null}
        <div className="flex gap-1.5">
          <Button look="main" className="flex-1" disabled={busy === 'full' || !answer} onClick={() => void placeTrace(picture)}>
            {busy === 'full' ? 'Tracing…' : settings.result ? 'Trace again and replace' : 'Trace onto the drawing'}
          </Button>
          {busy === 'no' ? null : (
            <Button onClick={stop} aria-label="Stop tracing">
              Stop
            </Button>
          )}
        </div>
        <p className="text-[13px] text-ink-soft" role="status">
          {busy === 'preview' ? 'Working out how it would look…' : 'Shown at screen size; placed at full size.'}
        </p>
      </Card>
      <Card title="Clean">
        <PickRow
          label="Cleaning"
          value={settings.clean}
          options={[
            { value: 'auto', label: 'As the picture needs: light evened, noise calmed, steps softened', content: 'As it needs' },
            { value: 'none', label: 'None: the picture as it is', content: 'None' },
          ]}
          onChange={(clean) => setTrace(picture, { clean })}
        />
      </Card>
      <Colours picture={picture} />
      <Card title="Outline">
        <PickRow
          label="Stacking"
          value={settings.stacking}
          options={[
            { value: 'inlaid', label: 'Inlaid: each colour exactly meets the next', content: 'Inlaid' },
            { value: 'overlaid', label: 'Overlaid: lower colours run through under what lies on them', content: 'Overlaid' },
          ]}
          onChange={(stacking) => setTrace(picture, { stacking })}
        />
        <NumberField
          wide
          label="Smoothness"
          value={settings.smoothness * 100}
          suffix="%"
          decimals={0}
          step={10}
          min={0}
          max={100}
          onChange={(percent) => setTrace(picture, { smoothness: percent / 100 })}
        />
        <NumberField
          wide
          label="Corners are sharper than"
          value={settings.cornerDeg}
          suffix="°"
          decimals={0}
          step={5}
          min={5}
          max={120}
          onChange={(cornerDeg) => setTrace(picture, { cornerDeg })}
        />
        <Switch
          label="Specks as the picture needs"
          checked={settings.smallestPx === null}
          onChange={(on) => setTrace(picture, { smallestPx: on ? null : 10 })}
        />
        {settings.smallestPx === null ? null : (
          <NumberField
            wide
            label="Smallest part"
            value={settings.smallestPx}
            suffix="px²"
            decimals={0}
            min={0}
            max={10_000}
            onChange={(smallestPx) => setTrace(picture, { smallestPx })}
          />
        )}
      </Card>
    </>
  );
}
