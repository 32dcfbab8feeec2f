/** What a machine tells of itself over HTTP, if it can: where its tool is, and a picture of what it cut. Hostile until parsed. */
import { isIP } from 'node:net';
import { z } from 'zod';
import { traySheetSchema, type TraySheet } from '@lorvek/model';
import { addressOf } from './machine-address.ts';

const reportSchema = z.object({
  state: z.enum(['off', 'ready', 'cutting', 'printing']),
  /** Where the tool is; of printers nothing. */
  x: z.number().default(0),
  y: z.number().default(0),
  down: z.boolean().default(false),
  sheet: z.number().int().min(0),
  /** Greatest distance of the last cut from where the print says that it should be, mm. */
  offMm: z.number().min(0).max(1e5).nullish(),
  /** Of the last sheet, by plate. */
  inkMl: z.record(z.string().max(80), z.number().min(0)).nullish(),
});
const traySchema = z.array(traySheetSchema).max(200);
export type ReportedState = z.infer<typeof reportSchema>;

const MOST_PICTURE_BYTES = 32 * 1024 * 1024;

interface ReportAddress {
  readonly host: string;
  readonly reportPort: number | null;
}

/** Asked of the machine's own address only. */
async function fetchFrom(machine: ReportAddress, path: string, most: number, allowed: readonly string[]): Promise<Buffer | undefined> {
  if (machine.reportPort === null) return undefined;
  const ip = await addressOf(machine.host, allowed);
  if (isIP(ip) === 0) return undefined;
  return fetchLimited(`http://${isIP(ip) === 6 ? `[${ip}]` : ip}:${machine.reportPort}${path}`, most);
}

async function fetchLimited(url: string, most: number): Promise<Buffer | undefined> {
  try {
    const response = await fetch(url, { signal: AbortSignal.timeout(2000), redirect: 'error' });
    if (!response.ok || !response.body) return undefined;
    const chunks: Uint8Array[] = [];
    let size = 0;
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
      size += chunk.length;
      if (size > most) return undefined;
      chunks.push(chunk);
    }
    return Buffer.concat(chunks);
  } catch {
    return undefined;
  }
}

/** @returns undefined when the machine does not report or its answer makes no sense */
export async function readReport(machine: ReportAddress, allowed: readonly string[]): Promise<ReportedState | undefined> {
  const bytes = await fetchFrom(machine, '/report', 64 * 1024, allowed);
  if (!bytes) return undefined;
  try {
    const parsed = reportSchema.safeParse(JSON.parse(bytes.toString('utf8')));
    return parsed.success ? parsed.data : undefined;
  } catch {
    return undefined;
  }
}

/** Printed sheets that lie in its tray or in it; undefined when it does not tell. */
export async function readTray(machine: ReportAddress, allowed: readonly string[]): Promise<TraySheet[] | undefined> {
  const bytes = await fetchFrom(machine, '/tray', 256 * 1024, allowed);
  try {
    const parsed = traySchema.safeParse(JSON.parse(bytes?.toString('utf8') ?? ''));
    return parsed.success ? parsed.data : undefined;
  } catch {
    return undefined;
  }
}

/** Tells a machine something at its own address. @returns whether it took it */
async function tell(machine: ReportAddress, path: string, allowed: readonly string[]): Promise<boolean> {
  if (machine.reportPort === null) return false;
  const ip = await addressOf(machine.host, allowed);
  if (isIP(ip) === 0) return false;
  try {
    const response = await fetch(`http://${isIP(ip) === 6 ? `[${ip}]` : ip}:${machine.reportPort}${path}`, {
      method: 'POST',
      signal: AbortSignal.timeout(2000),
      redirect: 'error',
    });
    await response.body?.cancel();
    return response.ok;
  } catch {
    return false;
  }
}

/** Tells a machine to take a sheet from the tray. @returns whether it did */
export const loadSheet = (machine: ReportAddress, sheet: string, turned: boolean, allowed: readonly string[]): Promise<boolean> =>
  tell(machine, `/load/${encodeURIComponent(sheet)}${turned ? '?turned' : ''}`, allowed);

const faultsSchema = z.array(z.object({ name: z.string().max(40), text: z.string().max(200), value: z.number().nullable() })).max(40);
export type ReportedFault = z.infer<typeof faultsSchema>[number];

/** What can be made to go wrong with a simulated machine; undefined: it is a real one, or does not answer. */
export async function readFaults(machine: ReportAddress, allowed: readonly string[]): Promise<ReportedFault[] | undefined> {
  const bytes = await fetchFrom(machine, '/faults', 64 * 1024, allowed);
  try {
    const parsed = faultsSchema.safeParse(JSON.parse(bytes?.toString('utf8') ?? ''));
    return parsed.success ? parsed.data : undefined;
  } catch {
    return undefined;
  }
}

/** @param value null: mended; of `off` 1 switches the machine off and null on */
export const setFault = (machine: ReportAddress, name: string, value: number | null, allowed: readonly string[]): Promise<boolean> =>
  tell(
    machine,
    name === 'off' ? `/power/${value === null ? 'on' : 'off'}` : `/fault/${encodeURIComponent(name)}/${value ?? 'off'}`,
    allowed,
  );

/** What its camera sees about the tool now, SVG; undefined when it has none. */
export async function readCamera(machine: ReportAddress, allowed: readonly string[]): Promise<Buffer | undefined> {
  return svgOf(await fetchFrom(machine, '/camera.svg', MOST_PICTURE_BYTES, allowed));
}

const svgOf = (bytes: Buffer | undefined): Buffer | undefined =>
  bytes?.subarray(0, 200).toString('utf8').trimStart().startsWith('<svg') ? bytes : undefined;

/** The picture of a sheet as SVG bytes; undefined when there is none. */
export async function readPicture(machine: ReportAddress, sheet: number, allowed: readonly string[]): Promise<Buffer | undefined> {
  return svgOf(await fetchFrom(machine, `/sheets/${sheet}.svg`, MOST_PICTURE_BYTES, allowed));
}
