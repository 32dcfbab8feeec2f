/** At a machine: who answers, the tool moved by arrows, a test cut, a blade test, where the camera looks, what goes wrong. */
import { printsOf, type BenchAnswer, type BenchOrder, type Machine } from '@lorvek/model';
import { Loader2 } from 'lucide-react';
import { useEffect, useState, type ReactNode } from 'react';
import { api, sentenceOf } from '../../api/client.ts';
import { loadMachines } from '../../api/shop.ts';
import { Button } from '../../ui/button.tsx';
import { Notice } from '../../ui/card.tsx';
import { PickRow } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { Dialog } from '../../ui/dialog.tsx';
import { NumberField } from '../../ui/fields.tsx';
import { ToolArrows } from '../tool-arrows.tsx';
import { change } from './change.ts';

/** A step of the tool, mm. */
const STEP_MM = 5;
/** Where the tool stands until it was asked. */
const START = { x: 20, y: 20 };

type Part = 'tool' | 'camera' | 'faults';

interface Bench {
  readonly busy: BenchOrder['do'] | undefined;
  readonly said: BenchAnswer | undefined;
  /** Where the tool is, as it was told last. */
  readonly place: { readonly x: number; readonly y: number };
  act(order: BenchOrder): void;
}

function useBench(machine: Machine): Bench {
  const [busy, setBusy] = useState<BenchOrder['do']>();
  const [said, setSaid] = useState<BenchAnswer>();
  const [place, setPlace] = useState<{ x: number; y: number }>(START);
  const act = (order: BenchOrder): void => {
    setBusy(order.do);
    api
      .bench(machine.id, order)
      .then((answer) => {
        setSaid(answer);
        if (answer.place) setPlace(answer.place);
        if (answer.machine) void loadMachines();
      })
      .catch((error: unknown) => setSaid({ ok: false, text: sentenceOf(error) }))
      .finally(() => setBusy(undefined));
  };
  return { busy, said, place, act };
}

function Row({ title, text, children }: { title: string; text: string; children: ReactNode }) {
  return (
    <section className="flex items-center gap-3 border-t py-2 first:border-t-0" aria-label={title}>
      <div className="min-w-0 flex-1">
        <h3 className="font-semibold">{title}</h3>
        <p className="text-[13px] text-ink-soft">{text}</p>
      </div>
      <div className="flex shrink-0 items-center gap-2">{children}</div>
    </section>
  );
}

/** The piece that was cut, near to: the rest of the machine's sheet is empty. */
function CutPicture({ svg, at, widthMm, isLong }: { svg: string; at: { x: number; y: number }; widthMm: number; isLong: boolean }) {
  const [source, setSource] = useState('');
  useEffect(() => {
    const url = URL.createObjectURL(new Blob([svg], { type: 'image/svg+xml' }));
    setSource(url);
    return () => URL.revokeObjectURL(url);
  }, [svg]);
  const [long, high] = isLong ? [116, 44] : [24, 24];
  const part = [Math.max(0, at.x - 4), Math.max(0, widthMm - at.y - high + 4), long, high].join();
  return source === '' ? null : (
    <img
      alt="What was cut"
      src={`${source}#svgView(viewBox(${part}))`}
      className="mt-2 max-h-64 w-full border border-line-strong bg-desk object-contain"
      style={{ aspectRatio: `${long} / ${high}` }}
    />
  );
}

function ToolPart({ machine, setupId, bench }: { machine: Machine; setupId: string; bench: Bench }) {
  const { busy, said, place, act } = bench;
  const isBusy = busy !== undefined;
  const setup = machine.setups.find(({ id }) => id === setupId);
  const take = (bladeOffsetMm: number): void =>
    change(machine.id, {
      setups: machine.setups.map((one) => (one.id === setupId ? { ...one, bladeOffsetMm, corners: 'file' as const } : one)),
    });
  return (
    <>
      <Row title="Tool" text={`At ${place.x.toFixed(1)}, ${place.y.toFixed(1)} mm. Arrow keys move it by 5 mm, with Shift by 0.1 mm.`}>
        <ToolArrows label="Move the tool" step={STEP_MM} disabled={isBusy} onMove={(dx, dy) => act({ do: 'jog', dx, dy })} />
      </Row>
      <Row title="Test cut" text="A square of 15 mm with a triangle in it, where the tool stands. Weed the triangle.">
        <Button size="small" disabled={isBusy} onClick={() => act({ do: 'test-cut', setupId, ...place })}>
          Cut it
        </Button>
      </Row>
      <Row title="Blade test" text={`Five stars and squares turned for offsets about ${setup?.bladeOffsetMm ?? 0} mm, 110 mm long.`}>
        <Button size="small" disabled={isBusy} onClick={() => act({ do: 'blade-test', setupId, ...place })}>
          Cut it
        </Button>
      </Row>
      {said?.picture ? <CutPicture svg={said.picture} at={place} widthMm={machine.widthMm} isLong={said.offsets !== undefined} /> : null}
      {said?.offsets ? (
        <div className="flex flex-wrap items-center gap-2 pt-2">
          <span className="rule-label">Sharp and closed at</span>
          {said.offsets.map((offset, i) => (
            <Button key={offset} size="small" onClick={() => take(offset)}>
              {i + 1}: {offset.toFixed(2)} mm
            </Button>
          ))}
        </div>
      ) : null}
    </>
  );
}

const ZOOMS = ['1', '2', '4'] as const;

/** What the camera sees, anew after each answer. */
function CameraPicture({ url, said }: { url: string; said: Bench['said'] }) {
  const [zoom, setZoom] = useState<(typeof ZOOMS)[number]>('1');
  const [look, setLook] = useState(0);
  useEffect(() => setLook((n) => n + 1), [said]);
  return (
    <div className="flex flex-col items-center gap-2">
      <div className="size-56 overflow-hidden border border-line-strong bg-desk">
        <img
          key={look}
          src={`${url}?${look}`}
          alt="What the camera sees"
          className="size-full"
          style={{ transform: `scale(${zoom})` }}
          onError={(event) => (event.currentTarget.style.visibility = 'hidden')}
        />
      </div>
      <PickRow<(typeof ZOOMS)[number]>
        label="Zoom"
        value={zoom}
        options={ZOOMS.map((value) => ({ value, label: `${value} times`, content: `${value}×` }))}
        onChange={setZoom}
      />
    </div>
  );
}

function CameraPart({ machine, setupId, bench }: { machine: Machine; setupId: string; bench: Bench }) {
  const { busy, said, place, act } = bench;
  /** Where the square was drawn. */
  const [square, setSquare] = useState<{ x: number; y: number }>();
  const isBusy = busy !== undefined;
  const { calibration } = machine;
  const at = square ?? place;
  const nudge = (dx: number, dy: number): void => {
    const round = (v: number): number => Math.round(v * 100) / 100;
    const [x, y] = [(calibration?.dx ?? 0) + dx / 50, (calibration?.dy ?? 0) + dy / 50];
    change(machine.id, { calibration: { dx: round(x), dy: round(y), checked: false } });
  };
  return (
    <div className="flex gap-4 pt-2">
      <div className="flex min-w-0 flex-1 flex-col">
        <Row title="1 Draw" text="A square with a cross, where the tool stands: with a pen, or cut into a scrap.">
          <Button
            size="small"
            disabled={isBusy}
            onClick={() => {
              const here = { x: Math.max(place.x, 15), y: Math.max(place.y, 15) };
              setSquare(here);
              act({ do: 'calibrate-draw', setupId, ...here });
            }}
          >
            Draw it
          </Button>
        </Row>
        <Row
          title="2 Find"
          text="The camera looks for the cross: how far it sees it aside is how far it looks aside. Or nudge it by arrows."
        >
          <ToolArrows label="Nudge the offset" step={STEP_MM} disabled={isBusy} onMove={nudge} />
          <Button size="small" disabled={isBusy} onClick={() => act({ do: 'calibrate-find', ...at })}>
            Find it
          </Button>
        </Row>
        <Row title="3 Check" text="A second square 25 mm on, looked at by the offset that is stored.">
          <Button size="small" disabled={isBusy || !calibration} onClick={() => act({ do: 'calibrate-check', setupId, ...at })}>
            Check it
          </Button>
        </Row>
        <p className="border-t pt-2 text-[13px]">
          {calibration
            ? `Stored: ${calibration.dx.toFixed(2)} mm to the right, ${calibration.dy.toFixed(2)} mm up; ${calibration.checked ? 'checked.' : 'not checked yet.'}`
            : 'Nothing is stored: cuts on prints lie off by as much as the camera looks beside the tool.'}
        </p>
      </div>
      <CameraPicture url={api.benchCameraUrl(machine.id)} said={said} />
    </div>
  );
}

function FaultsPart({ bench }: { bench: Bench }) {
  const { said, act } = bench;
  // asked once when this part is opened
  useEffect(() => act({ do: 'faults' }), []); // eslint-disable-line react-hooks/exhaustive-deps
  if (!said?.faults) return null;
  return (
    <ul className="flex flex-col pt-2" aria-label="What goes wrong">
      {said.faults.map(({ name, text, value }) => (
        <li key={name} className="flex items-center gap-3 border-t py-1 first:border-t-0">
          <label className="flex min-w-0 flex-1 items-center gap-2">
            <input
              type="checkbox"
              className="accent-teal"
              checked={value !== null}
              onChange={() =>
                act({
                  do: 'fault',
                  name,
                  value: value === null ? (name === 'mark-missed' || name === 'off' ? 1 : name === 'slow' ? 5 : 0.5) : null,
                })
              }
            />
            {text}
          </label>
          {value !== null && name !== 'off' ? (
            <div className="w-24">
              <NumberField
                label={`How much: ${text}`}
                short=""
                value={value}
                min={0}
                max={1000}
                onChange={(next) => act({ do: 'fault', name, value: next })}
              />
            </div>
          ) : null}
        </li>
      ))}
    </ul>
  );
}

/** That the machine is at it, or what it said. */
function BenchSays({ bench: { busy, said } }: { bench: Bench }) {
  return (
    <div className="mt-3 min-h-10" role="status">
      {busy ? (
        <span className="flex items-center gap-2 text-ink-soft">
          <Loader2 size={15} className="animate-spin" /> The machine is at it…
        </span>
      ) : said && said.text !== '' ? (
        <Notice level={said.ok ? 'note' : 'warning'}>{said.text}</Notice>
      ) : null}
    </div>
  );
}

export function BenchDialog({ machine, onClose }: { machine: Machine; onClose(): void }) {
  const bench = useBench(machine);
  const isCutter = !printsOf(machine);
  const parts: { value: Part; label: string; content: string }[] = [
    { value: 'tool', label: isCutter ? 'Line and tool' : 'Line', content: isCutter ? 'Line and tool' : 'Line' },
    ...(machine.kind === 'camera-cutter' ? [{ value: 'camera' as const, label: 'Where the camera looks', content: 'Camera' }] : []),
    { value: 'faults', label: 'What goes wrong', content: 'What goes wrong' },
  ];
  const [part, setPart] = useState<Part>('tool');
  const [setupId, setSetup] = useState(machine.setups[0]?.id ?? '');
  return (
    <Dialog open title={`At ${machine.name}`} width={760} onClose={onClose}>
      <div className="flex items-end gap-3">
        <PickRow<Part> label="What is done" value={part} options={parts} onChange={setPart} />
        {isCutter && part !== 'faults' ? (
          <div className="ml-auto w-56">
            <Pick
              label="Tool setup"
              value={setupId}
              options={machine.setups.map(({ id, name }) => ({ value: id, text: name }))}
              onChange={setSetup}
            />
          </div>
        ) : null}
      </div>
      {part === 'tool' ? (
        <>
          <Row title="Line" text="Opens the line and asks who is there.">
            <Button size="small" disabled={bench.busy !== undefined} onClick={() => bench.act({ do: 'try' })}>
              Ask who is there
            </Button>
          </Row>
          {isCutter ? <ToolPart machine={machine} setupId={setupId} bench={bench} /> : null}
        </>
      ) : null}
      {part === 'camera' ? <CameraPart machine={machine} setupId={setupId} bench={bench} /> : null}
      {part === 'faults' ? <FaultsPart bench={bench} /> : null}
      <BenchSays bench={bench} />
    </Dialog>
  );
}
