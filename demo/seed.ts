/**
 * Fills an empty data folder with Saltmarsh Harbour: stock, machines and jobs. A folder that has jobs is left alone.
 * LORVEK_MACHINE_HOST and LORVEK_MACHINE_PORT say where the simulated machines listen.
 */
import { createApp } from '../apps/server/src/bootstrap.ts';
import { readConfig } from '../apps/server/src/config.ts';
import { MachineRow, RollRow, StockFilmRow, SupplyRow } from '../apps/server/src/db/entities.ts';
import { Tx } from '../apps/server/src/db/tx.ts';
import { JobsService } from '../apps/server/src/jobs/jobs.service.ts';
import { AssetsService } from '../apps/server/src/assets/assets.module.ts';
import { badgePicture } from './badge-picture.ts';
import { hullPicture } from './hull-picture.ts';
import { kayakPicture, kayakPixels, sunsetPicture } from './kayak-pictures.ts';
import { formatPath } from '@lorvek/core/geometry';
import { silhouette } from '@lorvek/core/trace';
import { demoJobs } from './jobs.ts';
import { demoMachines, demoStock, demoSupplies } from './stock.ts';

const clamped = ({ width, height, data }: { width: number; height: number; data: Uint8Array }) => ({
  width,
  height,
  data: new Uint8ClampedArray(data),
});

const app = await createApp({ ...readConfig(), logLevel: 'error' });
await app.init();
const tx = app.get(Tx);
const jobs = app.get(JobsService);
const isEmpty = (await jobs.list(false)).length + (await jobs.list(true)).length === 0;
if (isEmpty) {
  const { films, rolls } = demoStock();
  const machines = demoMachines(process.env.LORVEK_MACHINE_HOST ?? '127.0.0.1', Number(process.env.LORVEK_MACHINE_PORT ?? 9410));
  await tx.run(async (manager) => {
    // copies: what is inserted many at once does not come back as it went in
    await manager.insert(
      StockFilmRow,
      films.map((film) => ({ ...film })),
    );
    await manager.insert(RollRow, rolls);
    await manager.insert(MachineRow, machines);
    await manager.insert(SupplyRow, demoSupplies());
  });
  const assets = app.get(AssetsService);
  const [hull, badge] = [await assets.keep(hullPicture()), await assets.keep(badgePicture())];
  const [kayak, sunset] = [await assets.keep(kayakPicture()), await assets.keep(sunsetPicture())];
  const kayakSilhouette = formatPath(silhouette(clamped(kayakPixels()), { reach: 12, holes: false }), 3);
  const pictures = { hull: hull.asset, badge: badge.asset, kayak: kayak.asset, kayakSilhouette, sunset: sunset.asset };
  for (const { name, customer, dueInDays, drawing } of demoJobs(films, pictures)) {
    const dueOn = new Date(Date.now() + dueInDays * 86_400_000).toISOString().slice(0, 10);
    await jobs.create({ name, customer, dueOn }, drawing);
  }
}
process.stdout.write(isEmpty ? 'Demo data made.\n' : 'The data folder has jobs already; they are kept.\n');
await app.close();
process.exit(0);
