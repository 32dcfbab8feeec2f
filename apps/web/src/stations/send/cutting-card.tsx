/** How the kinds of lines are cut: the tool setup of each with what goes out for it, their order, windows on long rolls. */
import { CUT_KINDS, type CutKind } from '@lorvek/core/cut';
import { pageOf, type CuttingChoice, type Machine, type ToolSetup } from '@lorvek/model';
import { cuttingOf, setupFor, type Cutting } from '@lorvek/model/cut-file';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { api } from '../../api/client.ts';
import { loadMachines } from '../../api/shop.ts';
import { useDocument } from '../../document/store.ts';
import { LINE_LOOKS } from '../../drawing/paint.ts';
import { IconButton } from '../../ui/button.tsx';
import { Notice } from '../../ui/card.tsx';
import { Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { tellFailure } from '../../ui/tell.ts';

/** Stands for the setup that is chosen for all. */
const AS_CHOSEN = 'as-chosen';

export const KIND_NAMES: Record<CutKind, string> = {
  film: 'Film',
  weed: 'Weed lines',
  kiss: 'Kiss',
  score: 'Score',
  perforated: 'Perforated',
  through: 'Through',
};

/** What goes out for a setup, and nothing else. */
function describeSetup(setup: ToolSetup, unit: LengthUnit): string {
  const times = setup.passes > 1 ? ` · ${setup.passes} passes` : '';
  const corners = setup.corners === 'file' ? ` · corners turned for ${describeLength(setup.bladeOffsetMm, unit)}` : '';
  const what = setup.sends === 'stored' ? 'its own stored values' : `${setup.speedMmPerS} mm/s · ${setup.forceGrams} g`;
  return `Tool ${setup.tool} · ${what}${times}${corners}`;
}

/** The kinds in the order they are cut on this machine. */
export const inOrder = (kinds: ReadonlySet<CutKind>, order: readonly CutKind[] | undefined): CutKind[] => {
  const first = (order ?? []).filter((kind) => kinds.has(kind));
  return [...first, ...CUT_KINDS.filter((kind) => kinds.has(kind) && !first.includes(kind))];
};

interface CuttingCardProps {
  readonly machine: Machine;
  readonly setup: ToolSetup;
  /** Kinds of lines that go out. */
  readonly kinds: ReadonlySet<CutKind>;
  onSetup(id: string): void;
}

interface KindRowProps {
  readonly kind: CutKind;
  readonly machine: Machine;
  readonly cutting: Cutting;
  readonly place: { readonly isFirst: boolean; readonly isLast: boolean };
  onMove(by: 1 | -1): void;
  onSetup(id: string): void;
}

/** A kind of lines: how it is drawn, when it is cut, and by which setup. */
function KindRow({ kind, machine, cutting, place: { isFirst, isLast }, onMove, onSetup }: KindRowProps) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  return (
    <li className="flex flex-col gap-0.5 border-t py-1.5 first:border-t-0" data-kind={kind}>
      <div className="flex items-center gap-1.5">
        <svg viewBox="0 0 24 8" className="h-2 w-6 shrink-0" aria-hidden>
          <line
            x1="0"
            x2="24"
            y1="4"
            y2="4"
            strokeWidth="2.5"
            stroke={kind === 'film' || kind === 'weed' ? '#16202e' : LINE_LOOKS[kind].hex}
            strokeDasharray={kind === 'film' || kind === 'weed' ? '' : LINE_LOOKS[kind].dash.join(' ')}
          />
        </svg>
        <span className="min-w-0 flex-1 truncate font-semibold">{KIND_NAMES[kind]}</span>
        {isFirst && isLast ? null : (
          <>
            <IconButton label={`Cut ${KIND_NAMES[kind]} earlier`} className="size-6!" disabled={isFirst} onClick={() => onMove(-1)}>
              <ArrowUp size={13} />
            </IconButton>
            <IconButton label={`Cut ${KIND_NAMES[kind]} later`} className="size-6!" disabled={isLast} onClick={() => onMove(1)}>
              <ArrowDown size={13} />
            </IconButton>
          </>
        )}
        {machine.setups.length > 1 ? (
          <div className="w-32">
            <Pick
              label={`Setup of ${KIND_NAMES[kind]}`}
              hideLabel
              value={cutting.kinds[kind] ? cutting.kinds[kind].id : AS_CHOSEN}
              options={[{ value: AS_CHOSEN, text: 'as chosen' }, ...machine.setups.map((one) => ({ value: one.id, text: one.name }))]}
              onChange={onSetup}
            />
          </div>
        ) : null}
      </div>
      <p className="numerals text-xs text-ink-soft" data-testid="goes-out">
        {describeSetup(setupFor(cutting, kind), unit)}
      </p>
    </li>
  );
}

interface LongRollsProps {
  readonly choice: CuttingChoice;
  readonly machineName: string;
  readonly unit: LengthUnit;
  onChange(fields: Partial<CuttingChoice>): void;
}

function LongRolls({ choice, machineName, unit, onChange }: LongRollsProps) {
  return (
    <details className="border-t pt-1 text-[13px]">
      <summary className="cursor-pointer text-ink-soft">Long rolls and small parts</summary>
      <div className="flex flex-col gap-2 pt-2">
        <Switch
          label="Window after window"
          checked={typeof choice.windowMm === 'number'}
          onChange={(on) => onChange({ windowMm: on ? 600 : null })}
        />
        {typeof choice.windowMm === 'number' ? (
          <LengthField
            label="Length of a window"
            mm={choice.windowMm}
            unit={unit}
            minMm={50}
            onChange={(windowMm) => onChange({ windowMm })}
          />
        ) : null}
        <LengthField
          label="Small parts first, up to"
          mm={choice.smallFirstMm ?? 0}
          unit={unit}
          minMm={0}
          onChange={(smallFirstMm) => onChange({ smallFirstMm })}
        />
        <p className="text-ink-soft">Inside a kind inner contours come before the ones that hold them. This is kept for {machineName}.</p>
      </div>
    </details>
  );
}

export function CuttingCard({ machine, setup, kinds, onSetup }: CuttingCardProps) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const choice: CuttingChoice = machine.cutting ?? { kinds: {} };
  const cutting = cuttingOf(machine.setups, setup, choice);
  const ordered = inOrder(kinds, choice.order);
  const change = (fields: Partial<CuttingChoice>): void =>
    void api
      .changeMachine(machine.id, { cutting: { ...choice, ...fields } })
      .then(loadMachines)
      .catch(tellFailure);
  const choose = (kind: CutKind, id: string): void => {
    const { [kind]: _before, ...others } = choice.kinds;
    change({ kinds: id === AS_CHOSEN ? others : { ...others, [kind]: id } });
  };
  const move = (kind: CutKind, by: 1 | -1): void => {
    const at = ordered.indexOf(kind);
    const order = [...ordered];
    order.splice(at, 1);
    order.splice(at + by, 0, kind);
    change({ order });
  };
  const throughEarly = ordered.includes('through') && ordered.at(-1) !== 'through';
  return (
    <>
      <Pick label="Setup" value={setup.id} options={machine.setups.map((s) => ({ value: s.id, text: s.name }))} onChange={onSetup} />
      <ol className="flex flex-col" aria-label="Kinds of lines in the order of cutting">
        {ordered.map((kind, i) => (
          <KindRow
            key={kind}
            kind={kind}
            machine={machine}
            cutting={cutting}
            place={{ isFirst: i === 0, isLast: i === ordered.length - 1 }}
            onMove={(by) => move(kind, by)}
            onSetup={(id) => choose(kind, id)}
          />
        ))}
      </ol>
      {throughEarly ? (
        <Notice level="warning">What is cut through comes loose before the other lines are cut: pieces may move under the blade.</Notice>
      ) : null}
      <LongRolls choice={choice} machineName={machine.name} unit={unit} onChange={change} />
    </>
  );
}
