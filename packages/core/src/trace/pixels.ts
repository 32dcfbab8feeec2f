/** Pictures as plain pixels, and what is measured of them before anything is traced. */

export interface Pixels {
  readonly width: number;
  readonly height: number;
  /** RGBA, straight alpha, top row first. */
  readonly data: Uint8ClampedArray;
}

/** Three channels of 0 to 255 a pixel; `alpha` only where something is transparent. */
export interface Plane {
  readonly width: number;
  readonly height: number;
  readonly rgb: Float32Array;
  readonly alpha: Float32Array | undefined;
}

export function planeOf({ width, height, data }: Pixels): Plane {
  const n = width * height;
  const rgb = new Float32Array(n * 3);
  let alpha: Float32Array | undefined;
  for (let i = 0; i < n; i++) if ((data[4 * i + 3] as number) < 250) alpha ??= new Float32Array(n);
  for (let i = 0; i < n; i++) {
    const a = data[4 * i + 3] as number;
    for (let c = 0; c < 3; c++) rgb[3 * i + c] = data[4 * i + c] as number;
    if (alpha) alpha[i] = a;
  }
  return { width, height, rgb, alpha };
}

/**
 * Noise of flat areas, standard deviation in levels: the median of the Laplacian's size over green
 * (J. Immerkær, Fast Noise Variance Estimation, 1996, with a median for the mean).
 */
export function noiseOf({ width, height, rgb }: Plane): number {
  const histogram = new Uint32Array(1024);
  let count = 0;
  const at = (x: number, y: number): number => rgb[3 * (y * width + x) + 1] as number;
  for (let y = 1; y < height - 1; y += 1)
    for (let x = 1; x < width - 1; x += 1) {
      const v =
        4 * at(x, y) -
        2 * (at(x - 1, y) + at(x + 1, y) + at(x, y - 1) + at(x, y + 1)) +
        at(x - 1, y - 1) +
        at(x + 1, y - 1) +
        at(x - 1, y + 1) +
        at(x + 1, y + 1);
      const k = Math.min(1023, Math.round(Math.abs(v) * 4));
      histogram[k] = (histogram[k] as number) + 1;
      count++;
    }
  let [sum, k] = [0, 0];
  while (k < 1023 && sum + (histogram[k] as number) < count / 2) sum += histogram[k++] as number;
  // the Laplacian has six times the noise; the median of a normal's size is 0.6745 of its deviation
  return k / 4 / 6 / 0.6745;
}

/**
 * Smooths flat areas and keeps edges: each pixel becomes the mean of those around it that are like it
 * (J.-S. Lee, Digital Image Smoothing and the Sigma Filter, 1983).
 */
export function sigmaFilter(plane: Plane, radius: number, levels: number): Plane {
  const { width, height, rgb } = plane;
  const out = new Float32Array(rgb.length);
  const limit = levels * levels;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = 3 * (y * width + x);
      const [r, g, b] = [rgb[i] as number, rgb[i + 1] as number, rgb[i + 2] as number];
      let [sr, sg, sb, n] = [0, 0, 0, 0];
      const [x0, x1] = [Math.max(0, x - radius), Math.min(width - 1, x + radius)];
      for (let v = Math.max(0, y - radius); v <= Math.min(height - 1, y + radius); v++)
        for (let u = x0; u <= x1; u++) {
          const j = 3 * (v * width + u);
          const [dr, dg, db] = [(rgb[j] as number) - r, (rgb[j + 1] as number) - g, (rgb[j + 2] as number) - b];
          if (dr * dr + dg * dg + db * db > limit) continue;
          sr += rgb[j] as number;
          sg += rgb[j + 1] as number;
          sb += rgb[j + 2] as number;
          n++;
        }
      out[i] = sr / n;
      out[i + 1] = sg / n;
      out[i + 2] = sb / n;
    }
  return { ...plane, rgb: out };
}

/**
 * Takes uneven light and the paper's own colour off: where the ground reaches the frame its colour is fitted by a
 * plane of second degree in x and y, and the picture divided by it. Handed back unchanged when the ground is even.
 */
export function evenGround(plane: Plane): Plane {
  const { width, height, rgb } = plane;
  const step = Math.max(1, Math.round(Math.sqrt((width * height) / 40_000)));
  const basis = (x: number, y: number): number[] => {
    const [u, v] = [(2 * x) / width - 1, (2 * y) / height - 1];
    return [1, u, v, u * u, u * v, v * v];
  };
  const luma = (i: number): number => 0.299 * (rgb[i] as number) + 0.587 * (rgb[i + 1] as number) + 0.114 * (rgb[i + 2] as number);
  const samples: { x: number; y: number; i: number }[] = [];
  for (let y = 0; y < height; y += step) for (let x = 0; x < width; x += step) samples.push({ x, y, i: 3 * (y * width + x) });
  const lumas = samples.map(({ i }) => luma(i)).sort((a, b) => a - b);
  const high = lumas[Math.floor(lumas.length * 0.9)] ?? 255;
  let chosen = samples.filter(({ i }) => luma(i) > 0.72 * high);
  let fields: number[][] = [];
  for (let round = 0; round < 5 && chosen.length > 60; round++) {
    fields = [0, 1, 2].map((c) =>
      leastSquares(
        chosen.map(({ x, y }) => basis(x, y)),
        chosen.map(({ i }) => rgb[i + c] as number),
      ),
    );
    const off = ({ x, y, i }: (typeof samples)[number]): number => {
      const b = basis(x, y);
      return Math.max(...fields.map((f, c) => Math.abs((rgb[i + c] as number) - f.reduce((s, k, n) => s + k * (b[n] as number), 0))));
    };
    const limit = [40, 26, 18, 14, 12][round] as number;
    chosen = samples.filter((one) => off(one) < limit);
  }
  if (fields.length === 0 || chosen.length < samples.length * 0.12) return plane;
  const value = (f: readonly number[], b: readonly number[]): number => f.reduce((s, k, n) => s + k * (b[n] as number), 0);
  const corners = [0, 0.25, 0.5, 0.75, 1].flatMap((a) =>
    [0, 0.25, 0.5, 0.75, 1].map((b) => fields.map((f) => value(f, basis(a * width, b * height)))),
  );
  const all = corners.flat();
  const spread = Math.max(...all) - Math.min(...all);
  if (spread < 3 && Math.min(...all) > 250) return plane;
  const out = new Float32Array(rgb.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const b = basis(x, y);
      const i = 3 * (y * width + x);
      for (let c = 0; c < 3; c++)
        out[i + c] = Math.min(255, ((rgb[i + c] as number) * 255) / Math.max(20, value(fields[c] as number[], b)));
    }
  return { ...plane, rgb: out };
}

/** Normal equations solved by elimination with pivots. */
function leastSquares(rows: readonly (readonly number[])[], values: readonly number[]): number[] {
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
