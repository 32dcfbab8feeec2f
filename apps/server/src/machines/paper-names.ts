/** Self-describing names of papers (PWG 5101.1): `iso_a4_210x297mm`, `na_letter_8.5x11in`. */
const FORM = /^[a-z0-9-]+_[a-z0-9.-]+_(\d{1,5}(?:\.\d{1,4})?)x(\d{1,5}(?:\.\d{1,4})?)(mm|in)$/;

/** Size as the name says it; undefined for a name of another form. Upright as named. */
export function paperOf(name: string): { widthMm: number; heightMm: number } | undefined {
  const found = FORM.exec(name);
  if (!found) return undefined;
  const scale = found[3] === 'in' ? 25.4 : 1;
  const [widthMm, heightMm] = [Number(found[1]) * scale, Number(found[2]) * scale];
  return widthMm >= 20 && heightMm >= 20 && widthMm <= 5000 && heightMm <= 5000 ? { widthMm, heightMm } : undefined;
}
