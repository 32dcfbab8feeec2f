/** A machine's front panel on HTTP: its report, the pictures of its sheets, the tray, its camera, power and faults. */
import { createServer, type IncomingMessage, type Server } from 'node:http';
import { FAULTS, isFault, type FaultName } from './faults.ts';
import type { SimulatedDeskPrinter } from './desk-printer.ts';
import type { SimulatedCutter } from './simulated-cutter.ts';
import type { SimulatedPrinter } from './simulated-printer.ts';

const PAGE = (name: string): string => `<!doctype html><meta charset="utf-8"><title>${name}</title>
<style>body{font:15px/1.5 sans-serif;background:#2b3038;color:#f3efe6;margin:0;display:grid;place-items:center;min-height:100vh}
main{width:640px;padding:24px;background:#3a414c}button,select{font:inherit;padding:6px 12px;margin:0 8px 8px 0}pre{background:#15181d;padding:12px;overflow:auto}img{width:100%;background:#faf8f3}</style>
<main><h1>${name}</h1><p>Front panel of a simulated machine.</p>
<button onclick="post('/power/on')">Switch on</button><button onclick="post('/power/off')">Switch off</button><button onclick="post('/power/unplug')">Pull the cable</button>
<h2>Tray</h2><div id="t"></div>
<h2>Make something go wrong</h2><select id="f">${Object.entries(FAULTS)
  .map(([key, text]) => `<option value="${key}">${text}</option>`)
  .join(
    '',
  )}</select><input id="v" value="0.5" size="4"><button onclick="post('/fault/'+f.value+'/'+v.value)">Set</button><button onclick="post('/fault/'+f.value+'/off')">Mend</button>
<pre id="r"></pre><img id="p" alt="The sheet so far"></main>
<script>const post=(a)=>fetch(a,{method:'POST'});setInterval(async()=>{const r=await(await fetch('/report')).json();document.getElementById('r').textContent=JSON.stringify(r,null,1);document.getElementById('p').src='/sheets/'+r.sheet+'.svg?'+Date.now();const l=await(await fetch('/tray')).json();const t=document.getElementById('t');t.replaceChildren(...l.flatMap((s)=>{const b=document.createElement('button');b.textContent=(s.loaded?'In the machine: ':'Put in: ')+s.name;b.onclick=()=>post('/load/'+s.id);return [b]}))},1000)</script>`;

type Machine = SimulatedCutter | SimulatedPrinter | SimulatedDeskPrinter;

interface Answer {
  readonly status: number;
  readonly type: string;
  readonly body: string;
}
const NOTHING: Answer = { status: 404, type: 'text/plain', body: 'There is nothing here.' };
const svg = (body: string | undefined): Answer => (body ? { status: 200, type: 'image/svg+xml', body } : NOTHING);
const json = (value: unknown): Answer => ({ status: 200, type: 'application/json', body: JSON.stringify(value) });
const DONE: Answer = { status: 204, type: 'text/plain', body: '' };

async function power(machine: Machine, what: string): Promise<Answer> {
  if (what === 'on') await machine.switchOn();
  else if (what === 'off') await machine.switchOff();
  else machine.dropConnections();
  return DONE;
}

function fault(machine: Machine, name: string, value: string): Answer {
  if (!isFault(name)) return NOTHING;
  machine.faults.set(name, value === 'off' ? null : Number(value) || 0);
  return DONE;
}

const faultList = (machine: Machine) => [
  { name: 'off', text: 'Switched off', value: machine.report().state === 'off' ? 1 : null },
  ...Object.entries(FAULTS).map(([name, text]) => ({ name, text, value: machine.faults.list()[name as FaultName] ?? null })),
];

/** What is done at the panel. */
async function order(machine: Machine, [what, second, third]: readonly string[], query: string | undefined): Promise<Answer> {
  if (what === 'power' && second) return power(machine, second);
  if (what === 'fault' && second && third) return fault(machine, second, third);
  if (what === 'load' && second && 'load' in machine) return machine.load(second, query === 'turned') ? DONE : NOTHING;
  return NOTHING;
}

async function answer(machine: Machine, { url = '/', method }: IncomingMessage): Promise<Answer> {
  const [path = '/', query] = url.split('?');
  const parts = path.split('/').slice(1).map(decodeURIComponent);
  if (method === 'POST') return order(machine, parts, query);
  const [first, second] = parts;
  switch (first) {
    case '':
      return { status: 200, type: 'text/html', body: PAGE(machine.options.name) };
    case 'report':
      return json(machine.report());
    case 'faults':
      return json(faultList(machine));
    case 'tray':
      return json(machine.trayList());
    case 'camera.svg':
      return svg('cameraSvg' in machine ? machine.cameraSvg() : undefined);
    case 'sheets':
      return svg(machine.pictureOf(Number.parseInt(second ?? '', 10)));
    default:
      return NOTHING;
  }
}

/** Starts the panel. @returns the server; close it to stop */
export async function startFrontPanel(machine: Machine, port: number, host = '127.0.0.1'): Promise<Server> {
  const server = createServer((request, response) => {
    answer(machine, request)
      .catch((error: unknown): Answer => ({ status: 500, type: 'text/plain', body: String(error) }))
      .then(({ status, type, body }) => response.writeHead(status, { 'content-type': type, 'cache-control': 'no-store' }).end(body))
      .catch(() => response.destroy());
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, resolve);
  });
  return server;
}
