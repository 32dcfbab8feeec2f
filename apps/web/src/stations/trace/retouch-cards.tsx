/** What is done to the picture by hand before it is traced, a card for each kind of work. */
import { enlargementFor } from '@lorvek/core/trace';
import type { PictureItem } from '@lorvek/model';
import type { ReactNode } from 'react';
import { Button } from '../../ui/button.tsx';
import { Card } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Numbers } from '../../ui/numbers.tsx';
import { PickButton } from './pick-button.tsx';
import { usePicking } from './picking.ts';
import { retouchOf, setRetouch, settingsOf, USUAL_LIFT } from './retouch-settings.ts';
import { setTrace } from './trace-store.ts';

const Hint = ({ children }: { children: ReactNode }) => <p className="text-[13px] text-ink-soft">{children}</p>;

function StraightenCard({ picture }: { picture: PictureItem }) {
  const { turnDeg = 0, corners, crop } = retouchOf(picture);
  const picking = usePicking((state) => state.picking);
  const clicked = usePicking((state) => state.corners.length);
  return (
    <Card title="Straighten and crop" startsOpen={turnDeg !== 0 || corners !== undefined || crop !== undefined}>
      <Numbers
        columns={1}
        values={{ turnDeg }}
        change={({ turnDeg: next }) => setRetouch(picture, { turnDeg: next || undefined })}
        asked={[{ field: 'turnDeg', label: 'Hangs over to the right by', as: 'degrees', step: 0.5, min: -180, max: 180 }]}
      />
      <div className="flex flex-wrap gap-1.5">
        <PickButton what="corners">Four corners</PickButton>
        {corners ? (
          <Button size="small" onClick={() => setRetouch(picture, { corners: undefined })}>
            Without the corners
          </Button>
        ) : null}
        <PickButton what="crop">Crop</PickButton>
        {crop ? (
          <Button size="small" onClick={() => setRetouch(picture, { crop: undefined })}>
            The whole picture
          </Button>
        ) : null}
      </div>
      {picking === 'corners' ? (
        <Hint>
          Click the {['upper left', 'upper right', 'lower right', 'lower left'][clicked]} corner of what should be a rectangle on the
          original.
        </Hint>
      ) : null}
      {picking === 'crop' ? <Hint>Drag over what should stay on the original.</Hint> : null}
    </Card>
  );
}

function CleanCard({ picture }: { picture: PictureItem }) {
  const settings = settingsOf(picture);
  return (
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
      <Hint>The cards below do more by hand, before that.</Hint>
    </Card>
  );
}

function EnlargeCard({ picture }: { picture: PictureItem }) {
  const { enlarge = 1 } = retouchOf(picture);
  const proposed = enlargementFor({ width: picture.widthPx, height: picture.heightPx });
  return (
    <Card title="Enlarge" startsOpen={enlarge !== 1}>
      <PickRow
        label="Enlarge along the edges"
        value={String(enlarge) as '1' | '2' | '4' | '8'}
        options={(['1', '2', '4', '8'] as const).map((times) => ({
          value: times,
          label: times === '1' ? 'As large as it is' : `${times} times as large`,
          content: times === '1' ? 'As it is' : `${times} ×`,
        }))}
        onChange={(times) => setRetouch(picture, { enlarge: times === '1' ? undefined : (Number(times) as 2 | 4 | 8) })}
      />
      {proposed > 1 && enlarge === 1 ? <Hint>For its size {proposed} × is proposed, when its parts are fine.</Hint> : null}
    </Card>
  );
}

function NoiseCard({ picture }: { picture: PictureItem }) {
  const { calm = 0, ringing = 0 } = retouchOf(picture);
  return (
    <Card title="Noise and waves" startsOpen={calm > 0 || ringing > 0}>
      <Numbers
        columns={1}
        values={{ calm, ringing }}
        change={(fields) =>
          setRetouch(picture, Object.fromEntries(Object.entries(fields).map(([name, share]) => [name, share || undefined])))
        }
        asked={[
          { field: 'calm', label: 'Calm noise', as: 'share', step: 0.1, min: 0, max: 1 },
          { field: 'ringing', label: 'Waves beside edges', as: 'share', step: 0.1, min: 0, max: 1 },
        ]}
      />
    </Card>
  );
}

function LightCard({ picture }: { picture: PictureItem }) {
  const { evenLight = false, levels } = retouchOf(picture);
  const now = levels ?? { black: 0, white: 255, gamma: 1 };
  const setLevels = (fields: Partial<typeof now>): void => {
    const next = { ...now, ...fields };
    setRetouch(picture, { levels: next.black === 0 && next.white === 255 && next.gamma === 1 ? undefined : next });
  };
  return (
    <Card title="Light and levels" startsOpen={evenLight || levels !== undefined}>
      <Switch label="Even out the light" checked={evenLight} onChange={(on) => setRetouch(picture, { evenLight: on ? true : undefined })} />
      <Numbers
        columns={3}
        values={now}
        change={setLevels}
        asked={[
          { field: 'black', label: 'Black from', short: 'Black', as: 'level', min: 0, max: 254 },
          { field: 'white', label: 'White from', short: 'White', as: 'level', min: 1, max: 255 },
          { field: 'gamma', label: 'Bend of the middle tones', short: 'Bend', as: 'plain', step: 0.1, min: 0.1, max: 10 },
        ]}
      />
    </Card>
  );
}

function GroundCard({ picture, onEdge }: { picture: PictureItem; onEdge(): void }) {
  const { lift, clear } = retouchOf(picture);
  const brush = usePicking((state) => state.brush);
  const now = lift ?? USUAL_LIFT;
  const set = (fields: Partial<typeof now>): void => {
    const next = { ...now, ...fields };
    setRetouch(picture, { lift: next.border || next.spots.length > 0 || next.strokes.length > 0 ? next : undefined });
  };
  return (
    <Card title="Ground" startsOpen={lift !== undefined || clear !== undefined}>
      <Switch label="Lift from the border inwards" checked={now.border} onChange={(border) => set({ border })} />
      <Numbers
        columns={1}
        values={now}
        change={(fields) => setRetouch(picture, { lift: { ...now, ...fields } })}
        asked={[
          { field: 'reach', label: 'Reach of the ground', as: 'difference', min: 0, max: 100 },
          { field: 'softPx', label: 'Softness of its edge', as: 'pixels', min: 0, max: 50 },
        ]}
      />
      <div className="flex flex-wrap gap-1.5">
        <PickButton what="lift">Lift where I click</PickButton>
        <PickButton what="keep">Brush: keep</PickButton>
        <PickButton what="take">Brush: take away</PickButton>
        <PickButton what="clear">Clear a colour</PickButton>
      </div>
      <Numbers
        columns={1}
        values={{ brush }}
        change={(fields) => usePicking.setState(fields)}
        asked={[{ field: 'brush', label: 'Width of the brush', as: 'share', step: 0.01, min: 0.01, max: 1 }]}
      />
      {clear ? (
        <div className="flex items-center gap-2">
          <span className="size-5 shrink-0 border border-line-strong" style={{ background: clear.hex }} />
          <Numbers
            columns={1}
            values={clear}
            change={(fields) => setRetouch(picture, { clear: { ...clear, ...fields } })}
            asked={[{ field: 'reach', label: 'Reach', as: 'difference', min: 0, max: 100 }]}
          />
          <Button size="small" onClick={() => setRetouch(picture, { clear: undefined })}>
            Keep it
          </Button>
        </div>
      ) : null}
      {now.spots.length + now.strokes.length > 0 ? (
        <Button size="small" onClick={() => set({ spots: [], strokes: [] })}>
          Without clicks and strokes ({now.spots.length + now.strokes.length})
        </Button>
      ) : null}
      <Button size="small" onClick={onEdge} title="The outline of what is left becomes a shape, and the picture is shown only within it">
        Clipping outline from what is left
      </Button>
    </Card>
  );
}

export function RetouchCards({ picture, onEdge }: { picture: PictureItem; onEdge(): void }) {
  return (
    <>
      <CleanCard picture={picture} />
      <StraightenCard picture={picture} />
      <EnlargeCard picture={picture} />
      <NoiseCard picture={picture} />
      <LightCard picture={picture} />
      <GroundCard picture={picture} onEdge={onEdge} />
    </>
  );
}
