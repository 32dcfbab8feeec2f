/** Small linear least squares by Householder reflections (Golub 1965). Rows are few, columns at most a dozen. */

/**
 * @param rows one row of factors an equation, all of one length
 * @param values what each row should come to
 * @returns the factors' coefficients; undefined when the equations do not settle them
 * @complexity rows times columns squared
 */
export function leastSquares(rows: readonly (readonly number[])[], values: readonly number[]): number[] | undefined {
  const n = rows[0]?.length ?? 0;
  const m = rows.length;
  if (n === 0 || m < n) return undefined;
  const a = rows.map((row, i) => [...row, values[i] ?? 0]);
  const at = (i: number, j: number): number => a[i]?.[j] ?? 0;
  for (let k = 0; k < n; k++) {
    let norm = 0;
    for (let i = k; i < m; i++) norm = Math.hypot(norm, at(i, k));
    if (norm < 1e-12) return undefined;
    const alpha = at(k, k) > 0 ? -norm : norm;
    const v = a.slice(k).map((row, i) => (i === 0 ? (row[k] ?? 0) - alpha : (row[k] ?? 0)));
    const vv = v.reduce((sum, x) => sum + x * x, 0);
    if (vv === 0) continue;
    for (let j = k; j <= n; j++) {
      let dot = 0;
      for (let i = k; i < m; i++) dot += (v[i - k] ?? 0) * at(i, j);
      const f = (2 * dot) / vv;
      for (let i = k; i < m; i++) (a[i] as number[])[j] = at(i, j) - f * (v[i - k] ?? 0);
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let k = n - 1; k >= 0; k--) {
    let sum = at(k, n);
    for (let j = k + 1; j < n; j++) sum -= at(k, j) * (x[j] ?? 0);
    if (Math.abs(at(k, k)) < 1e-10) return undefined;
    x[k] = sum / at(k, k);
  }
  return x.every(Number.isFinite) ? x : undefined;
}
