/** Stock, machines and fonts, as they cross HTTP. */
import { USUAL_WEEDING } from '@lorvek/core/build';
import { CUT_KINDS } from '@lorvek/core/cut';
import { INTENTS, USUAL_RENDERING } from '@lorvek/core/print';
import { z } from 'zod';
import { MARK_KINDS } from '../records/lay-up.ts';
import { treatmentsSchema } from '../records/treatments.ts';

const text = (most: number) => z.string().trim().max(most);

/** How a transfer film is pressed. */
export const pressRecipeSchema = z.object({
  heatC: z.number().min(0).max(300),
  seconds: z.number().min(0).max(600),
  pressure: text(60),
  peel: text(60),
});

/** A roll, or an offcut with its outline. */
export const rollSchema = z.object({
  id: z.string(),
  filmId: z.string(),
  widthMm: z.number(),
  lengthLeftMm: z.number(),
  isOffcut: z.boolean(),
  /** Of an offcut: its free shape as a path from its lower left corner, mm; null: its width and length say all. */
  outline: z.string().nullable().optional(),
  /** Of what is left, kept for runs that are not done yet. */
  reservedMm: z.number().optional(),
});
export type Roll = z.infer<typeof rollSchema>;

/** A film or a medium in Stock, with its rolls. */
export const stockFilmSchema = z.object({
  id: z.string(),
  series: z.string(),
  name: z.string(),
  hex: z.string(),
  transfer: z.boolean(),
  /** What it is printed as; null: it is cut and not printed. */
  medium: z.enum(['white', 'clear', 'paper', 'transfer']).nullable(),
  /** Of the shop's currency, per running metre of the widest roll. */
  pricePerMetre: z.number(),
  press: pressRecipeSchema.nullable(),
  /** Parts whose area is below this squared are lost in weeding, mm. */
  smallestPartMm: z.number(),
  /** Anything thinner tears in weeding, mm. */
  thinnestMm: z.number(),
  /** Less than this on all its rolls is to be ordered again, mm; null: nobody watches. */
  reorderMm: z.number().nullable().optional(),
  rolls: z.array(rollSchema),
});
export type StockFilm = z.infer<typeof stockFilmSchema>;

/** What a film in Stock begins with. */
export const newStockFilmSchema = z.object({
  series: text(80).min(1, 'a series'),
  name: text(80).min(1, 'a name'),
  hex: z
    .string()
    .regex(/^#[0-9a-f]{6}$/i, 'a colour such as #1b4f72')
    .transform((hex) => hex.toLowerCase()),
  transfer: z.boolean().default(false),
  medium: z.enum(['white', 'clear', 'paper', 'transfer']).nullable().default(null),
  pricePerMetre: z.number().min(0).max(100_000),
  smallestPartMm: z.number().min(0).max(100).default(2),
  thinnestMm: z.number().min(0).max(20).default(0.8),
  widthMm: z.number().min(10, 'a width of 10 mm or more').max(10_000),
  lengthMm: z.number().min(10, 'a length of 10 mm or more').max(1_000_000),
});
/** As it is sent. */
export type NewStockFilm = z.input<typeof newStockFilmSchema>;

/** A change that changes nothing known is a mistake, and said. */
const someField = [(fields: object) => Object.keys(fields).length > 0, 'at least one field that there is'] as const;

/** What can be changed of a film in stock. */
export const stockFilmChangeSchema = z
  .object({
    series: text(80).min(1, 'a series'),
    name: text(80).min(1, 'a name'),
    hex: newStockFilmSchema.shape.hex,
    transfer: z.boolean(),
    medium: newStockFilmSchema.shape.medium.unwrap(),
    press: pressRecipeSchema.nullable(),
    pricePerMetre: z.number().min(0).max(100_000),
    smallestPartMm: z.number().min(0).max(100),
    thinnestMm: z.number().min(0).max(20),
    reorderMm: z.number().min(0).max(10_000_000).nullable(),
  })
  .partial()
  .refine(...someField);
/** What of a film in Stock is changed, as it is sent. */
export type StockFilmChange = z.input<typeof stockFilmChangeSchema>;

/** A roll that comes into Stock. */
export const newRollSchema = z.object({
  widthMm: newStockFilmSchema.shape.widthMm,
  lengthLeftMm: newStockFilmSchema.shape.lengthMm,
  isOffcut: z.boolean().default(false),
});
/** As it is sent. */
export type NewRoll = z.input<typeof newRollSchema>;
/** What is kept besides films: inks by their plates, laminates by the metre. */
const supplyFields = {
  kind: z.enum(['ink', 'laminate']),
  name: text(80).min(1, 'a name'),
  /** Of an ink: the plate that uses it up. */
  plate: text(80).nullable(),
  /** Of a laminate. */
  widthMm: z.number().min(10).max(10_000).nullable(),
  /** ml of an ink, mm of a laminate. */
  left: z.number().min(0).max(100_000_000),
  /** Less than this is to be ordered again; null: nobody watches. */
  reorderAt: z.number().min(0).max(100_000_000).nullable(),
  /** Per litre, per running metre. */
  price: z.number().min(0).max(100_000),
};
/** An ink or a laminate that comes into Stock. */
export const newSupplySchema = z.object({
  ...supplyFields,
  plate: supplyFields.plate.default(null),
  widthMm: supplyFields.widthMm.default(null),
  reorderAt: supplyFields.reorderAt.default(null),
  price: supplyFields.price.default(0),
});
/** As it is sent. */
export type NewSupply = z.input<typeof newSupplySchema>;
/** What of a supply is changed; at least one of them. */
export const supplyChangeSchema = z
  .object(supplyFields)
  .omit({ kind: true })
  .partial()
  .refine(...someField);
/** As it is sent. */
export type SupplyChange = z.input<typeof supplyChangeSchema>;
/** An ink or a laminate in Stock. */
export const supplySchema = z.object({ id: z.string(), ...supplyFields });
export type Supply = z.infer<typeof supplySchema>;

/** What was used in a month: films, media and laminates by their length, and inks. */
export interface Usage {
  /** As `2026-11`. */
  readonly month: string;
  readonly films: readonly { readonly title: string; readonly hex: string; readonly mm: number }[];
  readonly inkMl: Readonly<Record<string, number>>;
}

/** What a list of Stock would change. */
export interface StockReading {
  readonly fresh: readonly string[];
  readonly changed: readonly string[];
  readonly same: number;
  /** Rows that cannot be read, with why. */
  readonly wrong: readonly { readonly row: number; readonly text: string }[];
}
/** A list of Stock, to be looked at or taken. */
export const stockListSchema = z.object({
  /** As a file in base 64, so that its encoding is found. */
  bytes: z.string().max(4_000_000),
  name: text(200),
  /** Look only. */
  dry: z.boolean(),
});

/** How much is left on a roll. */
export const rollChangeSchema = z.object({ lengthLeftMm: z.number().min(0).max(1_000_000) });

/** What a cutter is told for a kind of work. */
export const toolSetupSchema = z.object({
  id: text(40).min(1),
  name: text(60).min(1, 'a name'),
  /** Values are sent by us, or a setup stored on the machine is only selected. */
  sends: z.enum(['values', 'stored']),
  tool: z.number().int().min(1).max(8),
  speedMmPerS: z.number().min(10).max(1500),
  forceGrams: z.number().min(5).max(1000),
  passes: z.number().int().min(1).max(5),
  bladeOffsetMm: z.number().min(0).max(2),
  overcutMm: z.number().min(0).max(5),
  /** Who corrects for the blade offset. */
  corners: z.enum(['machine', 'file']),
  /** Where a closed contour is begun; at a node when absent. */
  entry: z.enum(['node', 'straight']).optional(),
});
export type ToolSetup = z.infer<typeof toolSetupSchema>;

const cutKind = z.enum(CUT_KINDS);
/** How a cutter does the kinds of lines: a setup for each that is not done with the one that is chosen, and their order. */
export const cuttingChoiceSchema = z.object({
  kinds: z.partialRecord(cutKind, text(40)),
  order: z.array(cutKind).max(CUT_KINDS.length).optional(),
  windowMm: z.number().min(50, 'windows of 50 mm or more').max(100_000).nullable().optional(),
  smallFirstMm: z.number().min(0).max(1000).optional(),
});
export type CuttingChoice = z.infer<typeof cuttingChoiceSchema>;

const address = text(120).regex(/^[A-Za-z0-9.:-]+$/, 'a host name or an address');

/** Devices of this computer that machines hang on: serial lines and printer ports, nothing else of the system. */
const devicePath = text(120).regex(
  /^\/dev\/(tty[A-Za-z0-9_]+|pts\/\d+|usb\/lp\d+|lp\d+|serial\/by-(id|path)\/[\w.:+-]+)$/,
  'a device such as /dev/ttyUSB0 or /dev/usb/lp0',
);
/** How a machine is spoken to. One that does not answer is sent everything, and nobody knows how far it is. */
export const connectionSchema = z.discriminatedUnion('by', [
  z.object({ by: z.literal('network') }),
  z.object({
    by: z.literal('serial'),
    path: devicePath,
    baud: z.number().int().min(300, 'a speed of 300 baud or more').max(921_600),
    flow: z.enum(['none', 'xon-xoff', 'rts-cts']),
    answers: z.boolean(),
  }),
  z.object({ by: z.literal('device'), path: devicePath, answers: z.boolean() }),
]);
export type Connection = z.infer<typeof connectionSchema>;

/** How colours go into inks on a medium: by which profile, and what becomes of colours that are out of reach. */
export const renderingSchema = z.object({
  /** null: the one that ships with the program. */
  profileId: z.string().max(60).nullable(),
  intent: z.enum(INTENTS),
  blackPoint: z.boolean(),
});
export type ColourRule = z.infer<typeof renderingSchema>;
/** The profile that ships, until another one is chosen. */
export const USUAL_COLOUR: ColourRule = { profileId: null, ...USUAL_RENDERING };
/** Stands for every medium that has no rule of its own. */
export const EVERY_MEDIUM = 'every';
/** The rule of a printer for a medium. */
export const colourRuleOf = (printer: Pick<Machine, 'colours'> | null | undefined, stockId: string): ColourRule =>
  printer?.colours?.[stockId] ?? printer?.colours?.[EVERY_MEDIUM] ?? USUAL_COLOUR;

/** A colour profile that the shop brought. */
export interface Profile {
  readonly id: string;
  readonly name: string;
  readonly addedAt: string;
}

/** A machine without its id. */
export const machineFieldsSchema = z.object({
  name: text(80).min(1, 'a name'),
  host: address,
  port: z.number().int().min(1).max(65535),
  /** Port at which the machine reports its state and shows what it cut, by HTTP; null when it cannot. */
  reportPort: z.number().int().min(1).max(65535).nullable(),
  widthMm: z.number().min(10).max(10_000),
  /** Of cutters. */
  setups: z.array(toolSetupSchema).max(20),
  kind: z.enum(['cutter', 'camera-cutter', 'printer', 'desk-printer']),
  /** Of cutters; null: every kind with the setup that is chosen, in the usual order. */
  cutting: cuttingChoiceSchema.nullable().optional(),
  /** null: on the network, at its host and port. */
  connection: connectionSchema.nullable().optional(),
  /** Kinds of registration marks that its camera finds; null: all of them. */
  readsMarks: z.array(z.enum(MARK_KINDS)).min(1, 'one kind of marks').nullable().optional(),
  /** How far its camera looks from where its tool stands, mm; null: it was never measured. */
  calibration: z
    .object({ dx: z.number().min(-50).max(50), dy: z.number().min(-50).max(50), checked: z.boolean() })
    .nullable()
    .optional(),
  /** Longest sheet that it takes, mm; null: as long as the roll is. */
  lengthMm: z.number().min(10).max(1e6).nullable().optional(),
  /** Of printers: ink of a full cover, ml a square metre; null: nobody has measured it. */
  inkMlPerM2: z.number().min(0.1).max(200).nullable().optional(),
  /** Of printers: by medium of Stock, or for every one; null: the shipped profile. */
  colours: z.record(z.string().max(60), renderingSchema).nullable().optional(),
});
/** A machine of the shop. */
export const machineSchema = machineFieldsSchema.extend({ id: z.string() });
/** Is it a printer, wide or at the desk? */
export const printsOf = ({ kind }: { readonly kind: string }): boolean => kind === 'printer' || kind === 'desk-printer';
/** Cutters need a tool setup; printers have none. */
export const hasItsSetups = ({ kind, setups }: { kind: string; setups: readonly unknown[] }): boolean =>
  printsOf({ kind }) || setups.length > 0;
/** Where a machine is, in words. */
export const describePlace = ({ host, port, connection }: Pick<Machine, 'host' | 'port' | 'connection'>): string =>
  connection && connection.by !== 'network' ? connection.path : `${host}:${port}`;
/** What a machine is. */
export type MachineKind = Machine['kind'];
export type Machine = z.infer<typeof machineSchema>;
/** What of a machine is changed; at least one of them. */
export const machineChangeSchema = machineFieldsSchema.partial().refine(...someField);
export type MachineChange = z.infer<typeof machineChangeSchema>;
/** What a machine begins with. */
export const newMachineSchema = machineFieldsSchema
  .extend({ kind: machineFieldsSchema.shape.kind.default('cutter') })
  .refine(hasItsSetups, { message: 'one tool setup', path: ['setups'] });
/** As it is sent. */
export type NewMachine = z.input<typeof newMachineSchema>;

const mmNear = z.number().min(-2000).max(2000);
const place = { x: z.number().min(0).max(100_000), y: z.number().min(0).max(100_000) };
/** What a machine is asked to do at the bench, beside its runs. */
export const benchOrderSchema = z.discriminatedUnion('do', [
  /** Who is there? */
  z.object({ do: z.literal('try') }),
  z.object({ do: z.literal('jog'), dx: mmNear, dy: mmNear }),
  z.object({ do: z.literal('test-cut'), setupId: z.string().max(40), ...place }),
  z.object({ do: z.literal('blade-test'), setupId: z.string().max(40), ...place }),
  z.object({ do: z.literal('calibrate-draw'), setupId: z.string().max(40), ...place }),
  z.object({ do: z.literal('calibrate-find'), ...place }),
  z.object({ do: z.literal('calibrate-check'), setupId: z.string().max(40), ...place }),
  z.object({ do: z.literal('fault'), name: z.string().regex(/^[a-z-]{1,40}$/), value: z.number().min(0).max(1000).nullable() }),
  z.object({ do: z.literal('faults') }),
]);
export type BenchOrder = z.infer<typeof benchOrderSchema>;
/** What came of an order at the machine. */
export interface BenchAnswer {
  readonly ok: boolean;
  readonly text: string;
  /** Where the tool is, when it is known. */
  readonly place?: { readonly x: number; readonly y: number } | undefined;
  /** The machine as it is set now. */
  readonly machine?: Machine | undefined;
  /** What was cut, SVG. */
  readonly picture?: string | undefined;
  /** Of a blade test: the offsets that were tried, from the left. */
  readonly offsets?: readonly number[] | undefined;
  /** What can be made to go wrong with a simulated machine; the ones that are on have a value. */
  readonly faults?: readonly { readonly name: string; readonly text: string; readonly value: number | null }[] | undefined;
}

/** A paper of a desk printer as it names it (PWG 5101.1), true size. */
export const paperSchema = z.object({ name: text(100), widthMm: z.number(), heightMm: z.number(), ready: z.boolean() });
export type Paper = z.infer<typeof paperSchema>;
/** What a desk printer says that it has; empty: it does not say, or does not answer. */
export interface Papers {
  readonly papers: readonly Paper[];
  readonly trays: readonly string[];
  readonly usual: string | null;
  readonly marginMm: number;
  readonly text: string;
}
/** What a desk printer is to print on. */
export const paperChoiceSchema = z.object({
  name: text(100).regex(/^[\w.-]+$/, 'a paper that the printer names'),
  tray: text(60)
    .regex(/^[\w.-]+$/, 'a tray that the printer names')
    .nullable(),
});
export type PaperChoice = z.infer<typeof paperChoiceSchema>;

/** A printed sheet that lies in a printer's tray or in a camera cutter. */
export const traySheetSchema = z.object({
  id: z.string().max(60),
  name: z.string().max(200),
  lengthMm: z.number(),
  widthMm: z.number(),
  loaded: z.boolean(),
});
export type TraySheet = z.infer<typeof traySheetSchema>;

/** What a machine answers when asked how it is. */
export const machineReportSchema = z.object({
  reachable: z.boolean(),
  text: z.string(),
});
export type MachineReport = z.infer<typeof machineReportSchema>;

/** What a machine says that lies in it; no sizes: it does not say, or does not answer. */
export const materialReportSchema = z.object({
  widthMm: z.number().nullable(),
  lengthMm: z.number().nullable(),
  text: z.string(),
});
export type MaterialReport = z.infer<typeof materialReportSchema>;

/** Kinds of fonts, in the order they are listed. */
export const fontKinds = ['block', 'round', 'slab', 'serif', 'script', 'display', 'stencil', 'world', 'stroke', 'own'] as const;
/** A font of the shop, with its files in their order. */
export const fontEntrySchema = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.enum(fontKinds),
  weight: z.number(),
  scripts: z.array(z.string()),
  licence: z.string(),
  files: z.array(z.string()),
  /** Brought by the shop itself. */
  own: z.boolean().optional(),
  /** Of a variable font. */
  axes: z.array(z.object({ tag: z.string(), name: z.string(), min: z.number(), normal: z.number(), max: z.number() })).optional(),
});
export type FontEntry = z.infer<typeof fontEntrySchema>;

/** Treatments kept under a name, for all jobs of the shop. Films are of the job that used them and may be missing in others. */
export const styleSchema = z.object({ id: z.string(), name: z.string(), treatments: treatmentsSchema });
export type Style = z.infer<typeof styleSchema>;
/** Treatments that are kept under a name. */
export const newStyleSchema = z.object({ name: z.string().trim().min(1, 'a name').max(80), treatments: treatmentsSchema.min(1) });
export type NewStyle = z.infer<typeof newStyleSchema>;

/** A picture that was taken in: the name it is kept under and its size. */
export const assetSchema = z.object({
  asset: z.string(),
  widthPx: z.number(),
  heightPx: z.number(),
  /** Dots an inch across as the file states them; absent when it does not. */
  dpi: z.number().optional(),
  /** Height of a pixel by its width as the file states it, when it is not square. */
  pixelAspect: z.number().optional(),
});
export type Asset = z.infer<typeof assetSchema>;

/** A file in the watched folder. */
export const inboxFileSchema = z.object({
  id: z.string(),
  name: z.string(),
  bytes: z.number(),
  savedAt: z.string(),
  /** Another one each time the file is saved. */
  stamp: z.string(),
});
export type InboxFile = z.infer<typeof inboxFileSchema>;
/** The watched folder and what lies in it. */
export const inboxSchema = z.object({ folder: z.string(), files: z.array(inboxFileSchema) });
export type Inbox = z.infer<typeof inboxSchema>;

/** How the shop reckons: its money, its hour, and how long weeding takes. */
export const shopSettingsSchema = z.object({
  currency: text(8).min(1, 'a sign for the currency'),
  /** Decimals that prices are shown with. */
  decimals: z.number().int().min(0).max(3),
  hourlyRate: z.number().min(0).max(100_000),
  marginPct: z.number().min(0).max(1000),
  weeding: z.object({
    minutesPerMetre: z.number().min(0).max(100),
    secondsPerPart: z.number().min(0).max(600),
    /** Parts whose area is below this squared are fine, and count as so many. */
    fineMm: z.number().min(0).max(500),
    fineTimes: z.number().min(1, 'once or more').max(20),
  }),
});
export type ShopSettings = z.infer<typeof shopSettingsSchema>;
/** What is reckoned with until the shop says otherwise. */
export const USUAL_SETTINGS: ShopSettings = { currency: '€', decimals: 2, hourlyRate: 48, marginPct: 20, weeding: USUAL_WEEDING };

/** A price as the shop writes it. */
export const describePrice = (price: number, { currency, decimals }: Pick<ShopSettings, 'currency' | 'decimals'>): string =>
  `${price.toFixed(decimals)} ${currency}`;
