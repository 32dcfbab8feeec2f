/** Small linear least squares by Householder reflections (Golub 1965). Rows are few, columns at most a dozen. */

const entry = (a: readonly (readonly number[])[], i: number, j: number): number => a[i]?.[j] ?? 0;

/** Reflects the rows from `k` on so that column `k` is zero below them. @returns false when the column holds nothing there */
function eliminate(a: number[][], k: number): boolean {
  const v = a.slice(k).map((row) => row[k] ?? 0);
  const norm = Math.hypot(...v);
  if (norm < 1e-12) return false;
  // away from its own sign, so that nothing is lost by the difference
  v[0] = (v[0] ?? 0) + (entry(a, k, k) > 0 ? norm : -norm);
  const vv = v.reduce((sum, x) => sum + x * x, 0);
  const columns = a[k]?.length ?? 0;
  for (let j = k; j < columns; j++) {
    const dot = v.reduce((sum, x, i) => sum + x * entry(a, k + i, j), 0);
    v.forEach((x, i) => ((a[k + i] as number[])[j] = entry(a, k + i, j) - ((2 * dot) / vv) * x));
  }
  return true;
}

/** Coefficients of rows that are zero left of their diagonal, the last one first; the last column is what they come to. */
function solveUpward(a: readonly (readonly number[])[], n: number): number[] | undefined {
  const x = new Array<number>(n).fill(0);
  for (let k = n - 1; k >= 0; k--) {
    if (Math.abs(entry(a, k, k)) < 1e-10) return undefined;
    const known = x.reduce((sum, value, j) => (j > k ? sum + entry(a, k, j) * value : sum), 0);
    x[k] = (entry(a, k, n) - known) / entry(a, k, k);
  }
  return x.every(Number.isFinite) ? x : undefined;
}

/**
 * @param rows one row of factors an equation, all of one length
 * @param values what each row should come to
 * @returns the factors' coefficients; undefined when the equations do not settle them
 * @complexity rows times columns squared
 */
export function leastSquares(rows: readonly (readonly number[])[], values: readonly number[]): number[] | undefined {
  const n = rows[0]?.length ?? 0;
  if (n === 0 || rows.length < n) return undefined;
  const a = rows.map((row, i) => [...row, values[i] ?? 0]);
  for (let k = 0; k < n; k++) if (!eliminate(a, k)) return undefined;
  return solveUpward(a, n);
}
