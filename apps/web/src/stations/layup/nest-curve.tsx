/** How the length fell while the search went on. */
import { Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import type { NestSearch } from './nest-search.ts';

/** @param edgesMm before and behind the work, which are used too */
export function NestCurve({ curve, edgesMm }: Pick<NestSearch, 'curve'> & { readonly edgesMm: number }) {
  const points = curve.map(({ seconds, lengthMm }) => ({ seconds, lengthMm: Math.round(lengthMm + edgesMm) }));
  return (
    <div
      className="h-24"
      role="img"
      aria-label={`Length in mm by seconds: from ${points[0]?.lengthMm ?? 0} to ${points.at(-1)?.lengthMm ?? 0}`}
    >
      <ResponsiveContainer width="100%" height="100%">
        <LineChart data={points} margin={{ top: 6, right: 8, bottom: 0, left: -14 }}>
          <XAxis dataKey="seconds" type="number" domain={[0, 'dataMax']} tick={{ fontSize: 11 }} unit=" s" />
          <YAxis dataKey="lengthMm" domain={['dataMin - 10', 'dataMax']} tick={{ fontSize: 11 }} />
          <Tooltip formatter={(value) => [`${String(value)} mm`, 'Length']} labelFormatter={(seconds) => `${String(seconds)} s`} />
          <Line type="stepAfter" dataKey="lengthMm" stroke="#0d5c5f" dot={false} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}
