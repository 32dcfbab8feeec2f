/** Least squares of a few unknowns. */

/**
 * Normal equations solved by elimination with pivots.
 * @param rows of each value what multiplies the unknowns
 * @returns the unknowns; 0 for those that the rows do not tell
 */
export function leastSquares(rows: readonly (readonly number[])[], values: readonly number[]): number[] {
  const n = rows[0]?.length ?? 0;
  const m = Array.from({ length: n }, () => new Array<number>(n + 1).fill(0));
  rows.forEach((row, k) => {
    for (let i = 0; i < n; i++) {
      for (let j = 0; j < n; j++) (m[i] as number[])[j] = ((m[i] as number[])[j] as number) + (row[i] as number) * (row[j] as number);
      (m[i] as number[])[n] = ((m[i] as number[])[n] as number) + (row[i] as number) * (values[k] as number);
    }
  });
  for (let i = 0; i < n; i++) {
    let p = i;
    for (let k = i + 1; k < n; k++) if (Math.abs((m[k] as number[])[i] as number) > Math.abs((m[p] as number[])[i] as number)) p = k;
    [m[i], m[p]] = [m[p] as number[], m[i] as number[]];
    const row = m[i] as number[];
    const pivot = row[i] as number;
    if (Math.abs(pivot) < 1e-12) continue;
    for (let k = 0; k < n; k++) {
      if (k === i) continue;
      const f = ((m[k] as number[])[i] as number) / pivot;
      for (let j = i; j <= n; j++) (m[k] as number[])[j] = ((m[k] as number[])[j] as number) - f * (row[j] as number);
    }
  }
  return m.map((row, i) => (Math.abs(row[i] as number) < 1e-12 ? 0 : (row[n] as number) / (row[i] as number)));
}
