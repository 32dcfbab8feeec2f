/** What the whole shop shares: stock, machines, fonts, runs. Loaded when first asked for, kept fresh by events. */
import { create } from 'zustand';
import type { FontEntry, Inbox, Machine, Run, ShopSettings, StockFilm, Style } from '@lorvek/model';
import { AppError } from '@lorvek/core';
import { toast } from 'sonner';
import { api, sentenceOf } from './client.ts';
import { listen } from './events.ts';

interface Shop {
  stock: StockFilm[] | undefined;
  machines: Machine[] | undefined;
  fonts: FontEntry[] | undefined;
  runs: Run[] | undefined;
  styles: Style[] | undefined;
  inbox: Inbox | undefined;
  settings: ShopSettings | undefined;
}

export const useShop = create<Shop>(() => ({
  stock: undefined,
  machines: undefined,
  fonts: undefined,
  runs: undefined,
  styles: undefined,
  inbox: undefined,
  settings: undefined,
}));

async function load<K extends keyof Shop>(key: K, ask: () => Promise<NonNullable<Shop[K]>>): Promise<void> {
  try {
    useShop.setState({ [key]: await ask() } as Pick<Shop, K>);
  } catch (error) {
    // the sign-in stands over the page and says it
    if (!(error instanceof AppError && error.code === 'access.sign-in')) toast.error(sentenceOf(error));
  }
}

export const loadStock = () => load('stock', api.stock);
export const loadMachines = () => load('machines', api.machines);
export const loadFonts = () => load('fonts', api.fonts);
export const loadStyles = () => load('styles', api.styles);
export const loadInbox = () => load('inbox', api.inbox);
export const loadSettings = () => load('settings', api.settings);
export const loadRuns = () => load('runs', api.runs);

/** Everything that the whole shop shares. */
export const loadShop = (): Promise<unknown> =>
  Promise.all([loadStock(), loadMachines(), loadFonts(), loadStyles(), loadRuns(), loadInbox(), loadSettings()]);

/** Loads everything once and follows the runs. @returns a function that stops following */
export function followShop(): () => void {
  void loadShop();
  return listen({
    open: () => void Promise.all([loadRuns(), loadInbox()]),
    // a backup was brought back: nothing on this page is true any more
    restored: () => window.location.reload(),
    inbox: () => void loadInbox(),
    run: (run) =>
      useShop.setState(({ runs = [] }) => ({
        runs: runs.some((r) => r.id === run.id) ? runs.map((r) => (r.id === run.id ? run : r)) : [run, ...runs],
      })),
  });
}
