/** The laminate that goes on a print: of what Stock has, with what is left and what it costs. */
import type { LayUp, Supply } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import type { SheetPlan } from '@lorvek/model/plan-sheet';
import { useEffect, useState } from 'react';
import { api } from '../../api/client.ts';
import { Figure, Notice } from '../../ui/card.tsx';
import { Pick } from '../../ui/pick.tsx';
import { Price } from '../../ui/price.tsx';
import { tellFailure } from '../../ui/tell.ts';
import { change } from './change.ts';

interface Props {
  readonly sheet: SheetPlan;
  readonly record: LayUp;
  /** Used length of all sheets of the layer. */
  readonly usedMm: number;
  readonly unit: LengthUnit;
}

const NONE = 'none';

/** What speaks against a laminate, in sentences. */
function against(supply: Supply | undefined, { sheet, record, usedMm, unit }: Props): string[] {
  if (!supply) return [`“${record.laminate?.name}” is no longer in Stock. Choose another, or none.`];
  const { minY, maxY } = sheet.frame.box;
  const wide = supply.widthMm !== null && maxY - minY > supply.widthMm;
  return [
    ...(wide ? [`It is ${describeLength(supply.widthMm ?? 0, unit)} wide, the work ${describeLength(Math.ceil(maxY - minY), unit)}.`] : []),
    ...(supply.left < usedMm
      ? [`${(supply.left / 1000).toFixed(2)} m of it are left, and the sheets take ${(usedMm / 1000).toFixed(2)} m.`]
      : []),
  ];
}

export function LaminatePick(props: Props) {
  const { sheet, record, usedMm, unit } = props;
  const [laminates, setLaminates] = useState<readonly Supply[]>();
  useEffect(() => {
    let current = true;
    void api
      .supplies()
      .then((all) => current && setLaminates(all.filter(({ kind }) => kind === 'laminate')))
      .catch(tellFailure);
    return () => {
      current = false;
    };
  }, []);
  const chosen = record.laminate ?? null;
  if (!laminates || (laminates.length === 0 && !chosen)) return null;
  const supply = laminates.find(({ id }) => id === chosen?.id);
  return (
    <>
      <Pick
        label="Laminate"
        value={chosen?.id ?? NONE}
        options={[
          { value: NONE, text: 'None' },
          ...laminates.map(({ id, name, left, widthMm }) => ({
            value: id,
            text: `${name} · ${widthMm === null ? '' : `${describeLength(widthMm, unit)} wide · `}${(left / 1000).toFixed(2)} m left`,
          })),
          ...(chosen && !supply ? [{ value: chosen.id, text: `${chosen.name} · not in Stock` }] : []),
        ]}
        onChange={(id) => {
          const next = laminates.find((one) => one.id === id);
          change(sheet.layer.id, { laminate: next ? { id: next.id, name: next.name } : null });
        }}
      />
      {chosen
        ? against(supply, props).map((text) => (
            <Notice key={text} level="warning">
              {text}
            </Notice>
          ))
        : null}
      {supply && supply.price > 0 ? (
        <Figure name="Laminate used">
          <Price of={(usedMm / 1000) * supply.price} />
        </Figure>
      ) : null}
    </>
  );
}
