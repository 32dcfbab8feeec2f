/** Keeping place against packing, and what it costs, film by film and in all. */
import { buildOf, describePrice, pageOf, setBuild, setFilmFields, USUAL_SETTINGS, type Build, type Film } from '@lorvek/model';
import { describeLength, type LengthUnit } from '@lorvek/core/units';
import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { Link } from 'react-router';
import { useShop } from '../../api/shop.ts';
import { dispatch, useDocument } from '../../document/store.ts';
import { Card, Figure, Notice } from '../../ui/card.tsx';
import { PickRow, Switch } from '../../ui/choices.tsx';
import { Pick } from '../../ui/pick.tsx';
import { LengthField } from '../../ui/fields.tsx';
import type { BuildAnswer } from '@lorvek/computations';

const set = (fields: Partial<Build>): boolean => dispatch(setBuild, { fields }, { origin: 'build.set' });

const minutesText = (minutes: number): string =>
  minutes < 1 ? `${Math.round(60 * minutes)} s` : minutes < 90 ? `${Math.round(minutes)} min` : `${(minutes / 60).toFixed(1)} h`;

const MARKS: Record<Build['marks']['shape'], string> = { cross: 'Cross', dot: 'Dot', square: 'Square', arrow: 'Arrow' };

/** Both ways for each film: used length, waste, price. */
function FilmByFilm({ answer }: { answer: BuildAnswer }) {
  const settings = useShop((state) => state.settings) ?? USUAL_SETTINGS;
  return (
    <details>
      <summary className="cursor-pointer text-ink-soft">Film by film</summary>
      <table className="numerals w-full text-[13px]">
        <tbody>
          {answer.costs.keep.layers.map(({ layer }, i) =>
            (['keep', 'pack'] as const).map((way) => {
              const cost = answer.costs[way].layers[i]?.cost;
              return (
                <tr key={`${layer.id} ${way}`} className="text-right">
                  <td className="max-w-24 truncate text-left">{way === 'keep' ? layer.name : ''}</td>
                  <td className="text-left text-ink-soft">{way === 'keep' ? 'kept' : 'packed'}</td>
                  <td>{Math.round(cost?.usedLengthMm ?? 0)} mm</td>
                  <td>{Math.round(100 * (cost?.wasteShare ?? 0))} %</td>
                  <td>{describePrice(cost?.price ?? 0, settings)}</td>
                </tr>
              );
            }),
          )}
        </tbody>
      </table>
    </details>
  );
}

/** What both ways use, drawn and in figures. */
function BothWays({ answer, place }: { answer: BuildAnswer; place: Build['place'] }) {
  const { unit } = pageOf(useDocument((state) => state.drawing));
  const settings = useShop((state) => state.settings) ?? USUAL_SETTINGS;
  const { keep, pack } = answer.costs;
  const rows = keep.layers.map(({ layer, cost }, i) => ({
    name: layer.name,
    kept: Math.round(cost.usedLengthMm),
    packed: Math.round(pack.layers[i]?.cost.usedLengthMm ?? 0),
  }));
  const filmPrice = (way: Build['place']): string => describePrice(answer.costs[way].quote.material, settings);
  const waste = (way: Build['place']): string => {
    const mm2 = answer.costs[way].layers.reduce((sum, { cost }) => sum + cost.wasteMm2, 0);
    return `${(mm2 / 1e6).toFixed(2)} m²`;
  };
  return (
    <>
      <div
        role="img"
        aria-label={`Used length: ${rows.map((row) => `${row.name} ${row.kept} mm kept, ${row.packed} mm packed`).join('; ')}`}
        style={{ height: 34 + 34 * rows.length }}
      >
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={rows} layout="vertical" margin={{ top: 0, right: 8, bottom: 0, left: 0 }} barGap={1}>
            <XAxis type="number" tick={{ fontSize: 11 }} unit=" mm" />
            <YAxis type="category" dataKey="name" width={78} tick={{ fontSize: 11 }} />
            <Tooltip formatter={(value) => `${String(value)} mm`} />
            <Bar dataKey="kept" name="Kept in place" fill="#0d5c5f" isAnimationActive={false} />
            <Bar dataKey="packed" name="Packed" fill="#9bb8b6" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      </div>
      <table className="numerals w-full text-[13px]">
        <thead>
          <tr className="rule-label text-right">
            <th className="text-left">In all</th>
            <th>Used</th>
            <th>Waste</th>
            <th>Film</th>
          </tr>
        </thead>
        <tbody>
          {(['keep', 'pack'] as const).map((way) => (
            <tr key={way} className={`text-right ${place === way ? 'font-semibold' : ''}`}>
              <td className="text-left">{way === 'keep' ? 'Kept' : 'Packed'}</td>
              <td>{describeLength(Math.round(answer.costs[way].usedLengthMm), unit)}</td>
              <td>{waste(way)}</td>
              <td>{filmPrice(way)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function MarkFields({ build, unit }: { build: Build; unit: LengthUnit }) {
  return (
    <>
      <Pick
        label="Shape of the marks"
        value={build.marks.shape}
        options={(Object.keys(MARKS) as Build['marks']['shape'][]).map((value) => ({ value, text: MARKS[value] }))}
        onChange={(shape) => set({ marks: { ...build.marks, shape } })}
      />
      <PickRow
        label="Where the marks stand"
        value={build.marks.at}
        options={[
          { value: 'corners', label: 'At the corners of the work', content: 'Corners' },
          { value: 'sides', label: 'At the middles of its sides', content: 'Sides' },
        ]}
        onChange={(at) => set({ marks: { ...build.marks, at } })}
      />
      <div className="grid grid-cols-2 gap-2">
        <LengthField
          label="Size of the marks"
          short="Size"
          mm={build.marks.sizeMm}
          unit={unit}
          minMm={1}
          onChange={(sizeMm) => set({ marks: { ...build.marks, sizeMm } })}
        />
        <LengthField
          label="Distance of the marks"
          short="Distance"
          mm={build.marks.distanceMm}
          unit={unit}
          minMm={0}
          onChange={(distanceMm) => set({ marks: { ...build.marks, distanceMm } })}
        />
      </div>
    </>
  );
}

export function PlaceCard({ answer, film }: { answer: BuildAnswer; film: Film | undefined }) {
  const drawing = useDocument((state) => state.drawing);
  const build = buildOf(drawing);
  const { unit } = pageOf(drawing);
  return (
    <Card title="Keep place or pack">
      <PickRow
        label="Keep place or pack"
        value={build.place}
        options={[
          { value: 'keep', label: 'Keep place: every film in one frame', content: 'Keep place' },
          { value: 'pack', label: 'Pack: each film at the start of its roll', content: 'Pack' },
        ]}
        onChange={(place) => set({ place })}
      />
      <p>{answer.places}</p>
      {answer.costs.keep.layers.length > 0 ? (
        <>
          <BothWays answer={answer} place={build.place} />
          <FilmByFilm answer={answer} />
        </>
      ) : null}
      {film ? (
        <Switch
          label={`Place marks on ${film.name}`}
          checked={film.placeMarks === true}
          onChange={(placeMarks) => dispatch(setFilmFields, { id: film.id, fields: { placeMarks } }, { origin: 'film.build' })}
        />
      ) : null}
      {film?.placeMarks && build.place === 'pack' ? (
        <Notice level="note">Packed films do not keep their place: marks are cut when it is kept.</Notice>
      ) : null}
      {film?.placeMarks && build.place === 'keep' ? <MarkFields build={build} unit={unit} /> : null}
    </Card>
  );
}

export function CostCard({ answer }: { answer: BuildAnswer }) {
  const drawing = useDocument((state) => state.drawing);
  const settings = useShop((state) => state.settings) ?? USUAL_SETTINGS;
  const build = buildOf(drawing);
  const { unit } = pageOf(drawing);
  const { layers, quote, lacks: open } = answer.costs[build.place];
  const price = (n: number): string => describePrice(n, settings);
  return (
    <Card title="Cost">
      {layers.length === 0 ? <p className="text-ink-soft">Nothing is cut yet.</p> : null}
      {layers.map(({ layer, cost, pressings, lacks }) => (
        <details key={layer.id} className="border-b pb-1">
          <summary className="flex cursor-pointer items-center gap-2">
            <span className="size-3 shrink-0 border border-line-strong" style={{ background: layer.hex }} />
            <span className="min-w-0 flex-1 truncate">{layer.name}</span>
            <span className="numerals">{price(cost.price)}</span>
          </summary>
          <div className="flex flex-col gap-0.5 pt-1 pl-5 text-[13px]">
            <Figure name="Area">{(cost.areaMm2 / 100).toFixed(0)} cm²</Figure>
            <Figure name="Length of cut">{(cost.cutMm / 1000).toFixed(2)} m</Figure>
            <Figure name="Used length">{describeLength(Math.round(cost.usedLengthMm), unit)}</Figure>
            <Figure name="Waste">{Math.round(100 * cost.wasteShare)} %</Figure>
            <Figure name="Weeding">
              {minutesText(cost.weedingMinutes)}, {cost.parts} parts{cost.fineParts > 0 ? `, ${cost.fineParts} fine` : ''}
            </Figure>
            {cost.pressMinutes > 0 ? (
              <Figure name="Press">
                {minutesText(cost.pressMinutes)}
                {pressings > 1 ? `, ${pressings} times` : ''}
              </Figure>
            ) : null}
            {lacks.map((text) => (
              <Notice key={text} level="warning">
                {text}
              </Notice>
            ))}
          </div>
        </details>
      ))}
      <Figure name="Film">{price(quote.material)}</Figure>
      <Figure name={`Work, ${minutesText(quote.minutes)} at ${price(settings.hourlyRate)}`}>{price(quote.work)}</Figure>
      <Figure name={`Margin, ${settings.marginPct} %`}>{price(quote.margin)}</Figure>
      <Figure name="Quote" strong>
        {price(quote.total)}
      </Figure>
      {open.length > 0 ? <Notice level="warning">The quote is not complete: {open.join(' ')}</Notice> : null}
      <p className="text-[13px] text-ink-soft">
        Weeding: {settings.weeding.minutesPerMetre} min a metre of cut, {settings.weeding.secondsPerPart} s a part; parts under{' '}
        {settings.weeding.fineMm} mm count {settings.weeding.fineTimes} times.{' '}
        <Link to="/stock" className="text-teal underline">
          Change it on Stock
        </Link>
      </p>
      <Switch label="Price on the proof" checked={build.costOnProof} onChange={(costOnProof) => set({ costOnProof })} />
    </Card>
  );
}
