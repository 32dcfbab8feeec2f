/** The Trace ticket: cleaning, colours, outline, and what it comes to. */
import { pageOf, type PictureItem } from '@lorvek/model';
import { useDocument } from '../../document/store.ts';
import { Button } from '../../ui/button.tsx';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Numbers } from '../../ui/numbers.tsx';
import { ColourCard } from './colour-card.tsx';
import { RetouchCards } from './retouch-cards.tsx';
import { placeEdge, placeTrace, setTrace, stop, USUAL, useTracing } from './trace-store.ts';

function ModeCard({ picture }: { picture: PictureItem }) {
  const { mode = 'colours', threshold = 'auto' } = picture.trace ?? USUAL;
  const kind = typeof threshold === 'number' ? 'level' : threshold;
  return (
    <Card title="What is traced">
      <PickRow
        label="What is traced"
        value={mode}
        options={[
          { value: 'colours', label: 'Every colour', content: 'Colours' },
          { value: 'single', label: 'What is dark, as one colour', content: 'One colour' },
          { value: 'centre', label: 'The middle of dark lines, for pens and engraving', content: 'Centre lines' },
        ]}
        onChange={(next) => setTrace(picture, { mode: next })}
      />
      {mode === 'colours' ? null : (
        <>
          <PickRow
            label="What is dark"
            value={kind}
            options={[
              { value: 'auto', label: 'Found from the whole picture', content: 'Found' },
              { value: 'local', label: 'Darker than its surroundings, where light is uneven', content: 'By surroundings' },
              { value: 'level', label: 'Below a level', content: 'Level' },
            ]}
            onChange={(next) => setTrace(picture, { threshold: next === 'level' ? 128 : next })}
          />
          {typeof threshold === 'number' ? (
            <Numbers
              columns={1}
              values={{ threshold }}
              change={(fields) => setTrace(picture, fields)}
              asked={[{ field: 'threshold', label: 'Dark below', as: 'level', step: 5, min: 0, max: 255 }]}
            />
          ) : null}
        </>
      )}
    </Card>
  );
}

/** What of the picture lets the ground through: an opaque picture cut by its outline gives a plain rectangle. */
const clearWords = (share: number): string =>
  share === 0 ? 'nothing, it is solid' : share < 0.01 ? 'below 1 %' : `${Math.round(100 * share)} %`;

/** Traced onto the drawing, or again; what is being worked out can be stopped. */
function TraceButtons({ picture }: { picture: PictureItem }) {
  const { answer, busy, share } = useTracing();
  const again = picture.trace?.result ? 'Trace again and replace' : 'Trace onto the drawing';
  return (
    <div className="flex gap-1.5">
      <Button look="main" className="flex-1" disabled={busy === 'full' || !answer} onClick={() => void placeTrace(picture)}>
        {busy === 'full' ? `Tracing… ${Math.round(100 * share)} %` : again}
      </Button>
      {busy === 'no' ? null : (
        <Button onClick={stop} aria-label="Stop tracing">
          Stop
        </Button>
      )}
    </div>
  );
}

/** What the trace found in the picture. */
function FoundCard({ picture }: { picture: PictureItem }) {
  const { answer, busy, problem } = useTracing();
  return (
    <Card title="Trace">
      <Figure name="Picture">
        {picture.widthPx} × {picture.heightPx}
      </Figure>
      <Figure name="Clear of it">{answer ? clearWords(answer.clearShare) : '…'}</Figure>
      <Figure name="Colours">{answer ? answer.layers.length : '…'}</Figure>
      <Figure name="Nodes">{answer ? answer.nodes : '…'}</Figure>
      {problem ? <Notice level="warning">{problem}</Notice> : null}
      <TraceButtons picture={picture} />
      <p className="text-[13px] text-ink-soft" role="status">
        {busy === 'preview' ? 'Working out how it would look…' : 'Shown at screen size; placed at full size.'}
      </p>
    </Card>
  );
}

/** Which small parts are let be. */
function SpeckFields({ picture }: { picture: PictureItem }) {
  const settings = picture.trace ?? USUAL;
  return (
    <>
      {settings.mode !== 'single' ? null : (
        <Switch label="Keep holes" checked={settings.holes !== false} onChange={(on) => setTrace(picture, { holes: on })} />
      )}
      <Switch
        label="Specks as the picture needs"
        checked={settings.smallestPx === null}
        onChange={(on) => setTrace(picture, { smallestPx: on ? null : 10 })}
      />
      {settings.smallestPx === null ? null : (
        <Numbers
          columns={1}
          values={{ smallestPx: settings.smallestPx }}
          change={(fields) => setTrace(picture, fields)}
          asked={[{ field: 'smallestPx', label: 'Smallest part', as: 'area', min: 0, max: 10_000 }]}
        />
      )}
    </>
  );
}

function OutlineCard({ picture }: { picture: PictureItem }) {
  const settings = picture.trace ?? USUAL;
  const { mode = 'colours' } = settings;
  const { unit } = pageOf(useDocument((state) => state.drawing));
  return (
    <Card title="Outline">
      {mode === 'colours' ? (
        <PickRow
          label="Stacking"
          value={settings.stacking}
          options={[
            { value: 'inlaid', label: 'Inlaid: each colour exactly meets the next', content: 'Inlaid' },
            { value: 'overlaid', label: 'Overlaid: lower colours run through under what lies on them', content: 'Overlaid' },
          ]}
          onChange={(stacking) => setTrace(picture, { stacking })}
        />
      ) : null}
      <Numbers
        columns={1}
        values={{ ...settings, trapMm: settings.trapMm ?? 0 }}
        unit={unit}
        change={(fields) => setTrace(picture, fields)}
        asked={[
          {
            field: 'trapMm',
            label: 'Trap under what lies above',
            as: 'length',
            min: 0,
            when: () => mode === 'colours' && settings.stacking === 'overlaid',
          },
          { field: 'smoothness', label: 'Smoothness', as: 'share', step: 0.1, min: 0, max: 1 },
          { field: 'cornerDeg', label: 'Corners are sharper than', as: 'degrees', step: 5, min: 5, max: 120 },
        ]}
      />
      <SpeckFields picture={picture} />
    </Card>
  );
}

export function TraceTicket({ picture }: { picture: PictureItem }) {
  const { mode = 'colours' } = picture.trace ?? USUAL;
  return (
    <>
      <FoundCard picture={picture} />
      <RetouchCards picture={picture} onEdge={() => void placeEdge(picture)} />
      <ModeCard picture={picture} />
      {mode === 'colours' ? <ColourCard picture={picture} /> : null}
      <OutlineCard picture={picture} />
    </>
  );
}
