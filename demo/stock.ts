/** Stock and machines of Tern Lane Signs, the made-up shop of the demo. */
import type { Medium, ToolSetup } from '@lorvek/model';
import type { MachineRow, RollRow, StockFilmRow, SupplyRow } from '../apps/server/src/db/entities.ts';

interface SeriesEntry {
  series: string;
  transfer: boolean;
  price: number;
  widthsMm: readonly number[];
  colours: readonly (readonly [name: string, hex: string, medium?: Medium])[];
}

const SERIES: readonly SeriesEntry[] = [
  {
    series: 'Tidewater 3-year',
    transfer: false,
    price: 6.4,
    widthsMm: [610, 1220],
    colours: [
      ['Gull white', '#f7f7f2'],
      ['Harbour navy', '#15294b'],
      ['Buoy red', '#c2271f'],
      ['Samphire green', '#4d7c3a'],
      ['Slate', '#4b545c'],
    ],
  },
  {
    series: 'Breakwater 7-year',
    transfer: false,
    price: 11.8,
    widthsMm: [610, 1220],
    colours: [
      ['Chalk white', '#fbfbf8'],
      ['Coal black', '#17181a'],
      ['Marigold yellow', '#f2a900'],
      ['Lantern orange', '#e2611c'],
      ['Deep teal', '#0f5e66'],
      ['Signal blue', '#1f4fa3'],
      ['Burgundy', '#6d1a2d'],
      ['Brass', '#b08d3c'],
    ],
  },
  {
    series: 'Deckhand transfer',
    transfer: true,
    price: 17.5,
    widthsMm: [500],
    colours: [
      ['Sail white', '#f4f4ee'],
      ['Rope sand', '#cfb58a'],
      ['Anchor navy', '#1b2c4f'],
    ],
  },
  {
    series: 'Chartroom print',
    transfer: false,
    price: 8.9,
    widthsMm: [1370],
    colours: [
      ['Gloss white', '#fcfcfa', 'white'],
      ['Window clear', '#eef2f1', 'clear'],
      ['Poster paper', '#faf7ee', 'paper'],
    ],
  },
];

const PRESS = { heatC: 155, seconds: 12, pressure: 'medium', peel: 'warm' };

export function demoStock(): { films: StockFilmRow[]; rolls: RollRow[] } {
  const films: StockFilmRow[] = [];
  const rolls: RollRow[] = [];
  for (const { series, transfer, price, widthsMm, colours } of SERIES) {
    for (const [name, hex, medium] of colours) {
      const slug = `${series.split(' ')[0]}-${name}`.toLowerCase().replace(/[^a-z0-9]+/g, '-');
      const filmId = `stock-${slug}`;
      films.push({
        id: filmId,
        series,
        name,
        hex,
        transfer,
        pricePerMetre: price,
        press: transfer ? PRESS : null,
        position: films.length,
        smallestPartMm: transfer ? 1.5 : 2,
        thinnestMm: transfer ? 0.6 : 0.8,
        medium: medium ?? null,
        reorderMm: null,
      });
      for (const widthMm of widthsMm)
        rolls.push({
          id: `roll-${slug}-${widthMm}`,
          filmId,
          widthMm,
          lengthLeftMm: widthMm > 1000 ? 25_000 : 10_000 + 350 * films.length,
          isOffcut: false,
          outline: null,
        });
    }
  }
  rolls.push({
    id: 'roll-offcut-1',
    filmId: 'stock-breakwater-marigold-yellow',
    widthMm: 300,
    lengthLeftMm: 820,
    isOffcut: true,
    outline: null,
  });
  return { films, rolls };
}

const setup = (id: string, name: string, fields: Partial<ToolSetup> = {}): ToolSetup => ({
  id,
  name,
  sends: 'values',
  tool: 1,
  speedMmPerS: 400,
  forceGrams: 90,
  passes: 1,
  bladeOffsetMm: 0.25,
  overcutMm: 0,
  corners: 'machine',
  ...fields,
});

/** Inks of the wide printer, and a laminate. */
export const demoSupplies = (): SupplyRow[] => [
  ...['Cyan', 'Magenta', 'Yellow', 'Black', 'White'].map((plate, position): SupplyRow => ({
    id: `supply-ink-${plate.toLowerCase()}`,
    kind: 'ink',
    name: `${plate} ink`,
    plate,
    widthMm: null,
    left: 700 - 60 * position,
    reorderAt: plate === 'White' ? 500 : 150,
    price: plate === 'White' ? 190 : 140,
    position,
  })),
  {
    id: 'supply-laminate-gloss',
    kind: 'laminate',
    name: 'Spray hood gloss',
    plate: null,
    widthMm: 1370,
    left: 31_000,
    reorderAt: 5000,
    price: 5.2,
    position: 5,
  },
];

const UNSAID = { cutting: null, connection: null, readsMarks: null, calibration: null, lengthMm: null, inkMlPerM2: null, colours: null };

export const demoMachines = (host: string, firstPort: number): MachineRow[] => [
  {
    id: 'machine-bench-610',
    kind: 'cutter',
    name: 'Bench cutter 610',
    host,
    port: firstPort,
    ...UNSAID,
    reportPort: firstPort + 1,
    widthMm: 610,
    setups: [
      setup('film', 'Sign film'),
      setup('transfer', 'Transfer film', { forceGrams: 70, speedMmPerS: 250 }),
      setup('own', 'Setup 4 on the machine', { sends: 'stored', tool: 4 }),
    ],
    position: 0,
  },
  {
    id: 'machine-camera-1400',
    kind: 'camera-cutter',
    name: 'Camera cutter 1400',
    host,
    port: firstPort + 2,
    ...UNSAID,
    calibration: { dx: 0.6, dy: -0.4, checked: true },
    reportPort: firstPort + 3,
    widthMm: 1400,
    setups: [
      setup('film', 'Sign film', { speedMmPerS: 600 }),
      setup('fine', 'Small lettering', { speedMmPerS: 200, forceGrams: 80, overcutMm: 0.3 }),
    ],
    position: 1,
  },
  {
    id: 'machine-wide-1600',
    kind: 'printer',
    name: 'Wide printer 1600',
    host,
    port: firstPort + 4,
    ...UNSAID,
    inkMlPerM2: 10,
    reportPort: firstPort + 5,
    widthMm: 1600,
    setups: [],
    position: 2,
  },
  {
    id: 'machine-desk-a4',
    kind: 'desk-printer',
    name: 'Desk printer',
    host,
    port: firstPort + 6,
    ...UNSAID,
    reportPort: firstPort + 7,
    widthMm: 216,
    setups: [],
    position: 3,
  },
];
