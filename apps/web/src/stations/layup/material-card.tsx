/** The material of a lay-up: a roll or an offcut of Stock, or what a machine says that lies in it; margins, grain, length of sheets. */
import { isPrint, narrowestThatFits, type LayUp, type MaterialReport, type Roll, type StockFilm } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useState } from 'react';
import { api, sentenceOf } from '../../api/client.ts';
import { useShop } from '../../api/shop.ts';
import { useSheets } from '../../document/sheets.ts';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField } from '../../ui/fields.tsx';
import { Price } from '../../ui/price.tsx';
import { change } from './change.ts';
import { LaminatePick } from './laminate-pick.tsx';

const rollText = (roll: Roll, unit: LengthUnit): string =>
  `${describeLength(roll.widthMm, unit)} wide · ${(roll.lengthLeftMm / 1000).toFixed(2)} m left${roll.isOffcut ? ' · offcut' : ''}`;

interface Props {
  readonly sheet: SheetPlan;
  readonly record: LayUp;
  readonly unit: LengthUnit;
}

/** Used length of all sheets of a layer. */
const sumOf = (sheets: readonly SheetPlan[], layer: string, of: 'usedLengthMm' | 'cutMm'): number =>
  sheets.filter((sheet) => sheet.layer.id === layer).reduce((sum, sheet) => sum + sheet[of], 0);

/** An offcut that would hold the work: what of the roll it saves. */
function Offcuts({ sheet, record, unit, entry }: Props & { entry: StockFilm | undefined }) {
  const sheets = useSheets((state) => state.sheets);
  const own = sheets.filter(({ layer }) => layer.id === sheet.layer.id);
  if (!entry || own.length > 1 || sheet.placements.length === 0 || sheet.roll.roll?.isOffcut || record.reported) return null;
  const { box } = sheet.frame;
  const [along, across] = [box.maxX - box.minX + 2 * record.marginMm, box.maxY - box.minY + 2 * record.marginMm];
  const fits = { ...entry, rolls: entry.rolls.filter(({ isOffcut }) => isOffcut) };
  const offcut = narrowestThatFits(sheet.layer, [fits], (on) => on.widthMm >= across - 1e-6 && on.lengthMm >= along - 1e-6);
  if (!offcut) return null;
  return (
    <Notice level="note">
      An offcut of {describeLength(offcut.widthMm, unit)} × {describeLength(Math.round(offcut.lengthLeftMm), unit)} would do: it saves{' '}
      {describeLength(Math.round(sheet.usedLengthMm), unit)} of the roll, <Price of={(sheet.usedLengthMm / 1000) * entry.pricePerMetre} />.{' '}
      <button type="button" className="text-teal underline" onClick={() => change(sheet.layer.id, { rollId: offcut.id })}>
        Take it
      </button>
    </Notice>
  );
}

/** Asks a machine what lies in it, and takes that. */
function AskMachine({ sheet, record, unit }: Props) {
  const machines = useShop((state) => state.machines);
  const [answer, setAnswer] = useState<MaterialReport & { machine: string }>();
  const [isAsking, setAsking] = useState(false);
  const ask = async (id: string): Promise<void> => {
    setAsking(true);
    const machine = machines?.find((one) => one.id === id)?.name ?? '';
    try {
      setAnswer({ ...(await api.askMaterial(id)), machine });
    } catch (error) {
      setAnswer({ widthMm: null, lengthMm: null, text: sentenceOf(error), machine });
    } finally {
      setAsking(false);
    }
  };
  const take = (): void => {
    if (answer?.widthMm && answer.lengthMm)
      change(sheet.layer.id, { reported: { machine: answer.machine, widthMm: answer.widthMm, lengthMm: answer.lengthMm } });
    setAnswer(undefined);
  };
  if (record.reported)
    return (
      <Notice level="note">
        As {record.reported.machine} says: {describeLength(Math.round(record.reported.widthMm), unit)} wide,{' '}
        {(record.reported.lengthMm / 1000).toFixed(2)} m long. No roll of Stock is booked.{' '}
        <button type="button" className="text-teal underline" onClick={() => change(sheet.layer.id, { reported: null })}>
          Take a roll of Stock
        </button>
      </Notice>
    );
  return (
    <>
      <Pick
        label="Ask a machine what lies in it"
        value={undefined}
        placeholder={isAsking ? 'Asking…' : 'Ask a machine'}
        options={(machines ?? []).map(({ id, name }) => ({ value: id, text: name }))}
        onChange={(id) => void ask(id)}
      />
      {answer ? (
        <Notice level={answer.widthMm ? 'note' : 'warning'}>
          {answer.text}{' '}
          {answer.widthMm ? (
            <button type="button" className="text-teal underline" onClick={take}>
              Lay up on that
            </button>
          ) : null}
        </Notice>
      ) : null}
    </>
  );
}

const GRAINS = [
  { value: 'any', label: 'No grain: any turn', content: 'Any turn' },
  { value: 'half', label: 'Grain: half turns', content: 'Half turns' },
  { value: 'none', label: 'Grain: no turns', content: 'No turns' },
] as const;

const NO_ROLL: Record<string, string> = {
  gone: 'The roll that was chosen is no longer in Stock.',
  none: 'There is no roll of this film in Stock.',
};

/** Which roll of Stock; none is invented. */
function RollPick({ sheet, record, unit, entry }: Props & { entry: StockFilm | undefined }) {
  const { how, roll: taken } = sheet.roll;
  return (
    <>
      {record.reported ? null : (
        <Pick
          label={`${sheet.layer.series} ${sheet.layer.name}`}
          value={taken?.id}
          placeholder="Choose a roll from Stock"
          options={(entry?.rolls ?? []).map((roll) => ({ value: roll.id, text: rollText(roll, unit) }))}
          onChange={(rollId) => change(sheet.layer.id, { rollId })}
        />
      )}
      {how === 'only' ? <Notice level="note">The only roll of this film that will do is taken by itself.</Notice> : null}
      {taken === null && how !== 'reported' ? (
        <Notice level="stop">
          {NO_ROLL[how] ?? 'No roll is chosen.'} A roll {describeLength(sheet.material.widthMm, unit)} wide is shown; nothing is cut from
          it.
        </Notice>
      ) : null}
    </>
  );
}

/** Sheets shorter than the roll. @param usedMm length that the work takes now */
function SheetLength({ sheet, record, unit, usedMm }: Props & { usedMm: number }) {
  const set = (fields: Partial<LayUp>): boolean => change(sheet.layer.id, fields);
  const usual = Math.max(10, Math.round(Math.min(sheet.material.lengthMm, Math.max(usedMm, 500))));
  return (
    <>
      <Switch
        label="Sheets of a length of their own"
        checked={(record.sheetLengthMm ?? null) !== null}
        onChange={(on) => set({ sheetLengthMm: on ? usual : null })}
      />
      {record.sheetLengthMm ? (
        <LengthField
          wide
          label="Length of a sheet"
          mm={record.sheetLengthMm}
          unit={unit}
          minMm={10}
          onChange={(sheetLengthMm) => set({ sheetLengthMm })}
        />
      ) : null}
    </>
  );
}

/** What it takes and costs. */
function MaterialFigures({ sheet, unit, entry, usedMm }: Omit<Props, 'record'> & { entry: StockFilm | undefined; usedMm: number }) {
  const sheets = useSheets((state) => state.sheets);
  return (
    <>
      <Figure name={sheet.of > 1 ? `Used length, ${sheet.of} sheets` : 'Used length'} strong>
        {describeLength(Math.round(usedMm * 10) / 10, unit)}
      </Figure>
      {entry ? (
        <Figure name={isPrint(sheet.layer) ? 'Medium used' : 'Film used'}>
          <Price of={(usedMm / 1000) * entry.pricePerMetre} />
        </Figure>
      ) : null}
      <Figure name="Length of cut">{(sumOf(sheets, sheet.layer.id, 'cutMm') / 1000).toFixed(2)} m</Figure>
    </>
  );
}

export function MaterialCard(props: Props) {
  const { sheet, record, unit } = props;
  const stock = useShop((state) => state.stock);
  const sheets = useSheets((state) => state.sheets);
  const entry = stock?.find((film) => film.id === sheet.layer.stockId);
  const { frame } = sheet;
  const over = (byMm: number, word: string): string[] =>
    byMm > record.marginMm ? [`${describeLength(Math.round((byMm - record.marginMm) * 10) / 10, unit)} too ${word}`] : [];
  const beyond = [...over(frame.overWidthMm, 'wide'), ...over(frame.overLengthMm, 'long')];
  const used = sumOf(sheets, sheet.layer.id, 'usedLengthMm');
  const set = (fields: Partial<LayUp>): boolean => change(sheet.layer.id, fields);
  return (
    <Card title="Material" aside={<span className="size-4 border border-line-strong" style={{ background: sheet.layer.hex }} />}>
      <RollPick {...props} entry={entry} />
      {beyond.length > 0 ? (
        <Notice level="stop">The work is {beyond.join(' and ')} for this material. Turn it, take fewer copies or a wider roll.</Notice>
      ) : null}
      <Offcuts {...props} entry={entry} />
      <LessMaterial {...props} />
      <AskMachine {...props} />
      <LengthField wide label="Margin" mm={record.marginMm} unit={unit} minMm={0} onChange={(marginMm) => set({ marginMm })} />
      <SheetLength {...props} usedMm={used} />
      <PickRow
        label="Grain"
        value={record.grain ?? 'any'}
        options={[...GRAINS]}
        onChange={(grain) => set({ grain: grain === 'any' ? null : grain })}
      />
      {isPrint(sheet.layer) ? <LaminatePick sheet={sheet} record={record} usedMm={used} unit={unit} /> : null}
      <MaterialFigures {...props} entry={entry} usedMm={used} />
    </Card>
  );
}

/** A quarter turn that takes much less of the roll is offered where its length is seen. */
function LessMaterial({ sheet, record, unit }: Props) {
  const { frame, material } = sheet;
  const { copies } = record.fill.kind === 'as-drawn' ? record.fill : { copies: 0 };
  if (copies !== 1 || sheet.placements.length !== 1) return null;
  const [along, across] = [frame.box.maxX - frame.box.minX, frame.box.maxY - frame.box.minY];
  const turned = sheet.usedLengthMm - along + across;
  if (along + 2 * record.marginMm > material.widthMm || turned > 0.85 * sheet.usedLengthMm) return null;
  const say = (mm: number): string => describeLength(Math.round(mm), unit);
  return (
    <Notice level="note">
      Turned a quarter it takes {say(turned)} of the roll instead of {say(sheet.usedLengthMm)}.{' '}
      <button
        type="button"
        className="text-teal underline"
        onClick={() => change(sheet.layer.id, { turnDeg: (record.turnDeg + 90) % 360 })}
      >
        Turn it
      </button>
    </Notice>
  );
}
