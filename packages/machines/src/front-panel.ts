/** The cutter's front panel on HTTP: its report, the pictures of its sheets, a power switch. */
import { createServer, type Server } from 'node:http';
import type { SimulatedCutter } from './simulated-cutter.ts';

const PAGE = (name: string): string => `<!doctype html><meta charset="utf-8"><title>${name}</title>
<style>body{font:15px/1.5 sans-serif;background:#2b3038;color:#f3efe6;margin:0;display:grid;place-items:center;min-height:100vh}
main{width:560px;padding:24px;background:#3a414c}button{font:inherit;padding:8px 14px;margin-right:8px}pre{background:#15181d;padding:12px}img{width:100%;background:#faf8f3}</style>
<main><h1>${name}</h1><p>Front panel of a simulated cutter.</p>
<button onclick="post('on')">Switch on</button><button onclick="post('off')">Switch off</button><button onclick="post('unplug')">Pull the cable</button>
<pre id="r"></pre><img id="p" alt="The sheet so far"></main>
<script>const post=(a)=>fetch('/power/'+a,{method:'POST'});setInterval(async()=>{const r=await(await fetch('/report')).json();document.getElementById('r').textContent=JSON.stringify(r,null,1);document.getElementById('p').src='/sheets/'+r.sheet+'.svg?'+Date.now()},1000)</script>`;

/** Starts the panel. @returns the server; close it to stop */
export async function startFrontPanel(cutter: SimulatedCutter, port: number, host = '127.0.0.1'): Promise<Server> {
  const server = createServer((request, response) => {
    const answer = (status: number, type: string, body: string): void => {
      response.writeHead(status, { 'content-type': type, 'cache-control': 'no-store' }).end(body);
    };
    const url = request.url ?? '/';
    const sheet = /^\/sheets\/(\d{1,9})\.svg/.exec(url);
    const power = /^\/power\/(on|off|unplug)$/.exec(url);
    if (url === '/report') answer(200, 'application/json', JSON.stringify(cutter.report()));
    else if (sheet) {
      const picture = cutter.pictureOf(Number(sheet[1]));
      answer(picture ? 200 : 404, 'image/svg+xml', picture ?? '');
    } else if (power && request.method === 'POST') {
      const done =
        power[1] === 'on' ? cutter.switchOn() : power[1] === 'off' ? cutter.switchOff() : Promise.resolve(cutter.dropConnections());
      done.then(() => answer(204, 'text/plain', '')).catch((error: unknown) => answer(500, 'text/plain', String(error)));
    } else if (url === '/') answer(200, 'text/html', PAGE(cutter.options.name));
    else answer(404, 'text/plain', 'There is nothing here.');
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, resolve);
  });
  return server;
}
