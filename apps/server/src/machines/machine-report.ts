/** What a machine tells of itself over HTTP, if it can: where its tool is, and a picture of what it cut. Hostile until parsed. */
import { isIP } from 'node:net';
import { z } from 'zod';
import { addressOf } from './machine-address.ts';

const reportSchema = z.object({
  state: z.enum(['off', 'ready', 'cutting']),
  x: z.number(),
  y: z.number(),
  down: z.boolean(),
  sheet: z.number().int().min(0),
  cutMm: z.number().min(0),
});
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

/** The picture of a sheet as SVG bytes; undefined when there is none. */
export async function readPicture(machine: ReportAddress, sheet: number, allowed: readonly string[]): Promise<Buffer | undefined> {
  const bytes = await fetchFrom(machine, `/sheets/${sheet}.svg`, MOST_PICTURE_BYTES, allowed);
  return bytes?.subarray(0, 200).toString('utf8').trimStart().startsWith('<svg') ? bytes : undefined;
}
