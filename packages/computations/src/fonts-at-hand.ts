/** Fonts that computations have read, and what is known of the items of a drawing with them. */
import { AppError } from '@lorvek/core';
import { joinFonts, loadFont, missingCharacters, type Font } from '@lorvek/core/lettering';
import type { Outline } from '@lorvek/core/geometry';
import {
  causeKey,
  fontsOf,
  leavesOf,
  type Drawing,
  type EdgeCutItem,
  type FontEntry,
  type Known,
  type KnownOf,
  type LeafItem,
} from '@lorvek/model';
import { deriveItem, type Derived } from '@lorvek/model/derive';
import { lineRound } from '@lorvek/model/edge-cuts';
import { knownIn, whyOf } from '@lorvek/model/know';
import { LRUCache } from 'lru-cache';
import { chooseFont, type FontChosen, type FontWanted } from './font-choice.ts';
import type { FontSource } from './host.ts';

/** Items are worked out so many at a time, with the share told in between. */
const BATCH = 200;

/** Fonts that were read, and items that were worked out with them. */
export class FontsAtHand {
  private readonly shelf = new Map<string, Promise<Font | undefined>>();
  private readonly ready = new Map<string, Font>();
  /** A help for the next question; never what an answer stands on. */
  private readonly derived: LRUCache<string, Derived>;

  /** @param most so many items' outlines are kept */
  constructor(
    private readonly source: FontSource,
    most: number,
  ) {
    this.derived = new LRUCache({ max: most });
  }

  private async read(id: string): Promise<Font | undefined> {
    const files = await this.source.files(id);
    if (!files || files.length === 0) {
      // it may be brought yet
      this.shelf.delete(id);
      return undefined;
    }
    const font = joinFonts(files.map(loadFont) as [Font, ...Font[]]);
    this.ready.set(id, font);
    return font;
  }

  /** @returns undefined for a font that the shop does not have. @throws AppError `offline`, `input.font`; asked for again the next time */
  font(id: string): Promise<Font | undefined> {
    let font = this.shelf.get(id);
    if (!font) {
      font = this.read(id).catch((error: unknown) => {
        this.shelf.delete(id);
        throw error;
      });
      this.shelf.set(id, font);
    }
    return font;
  }

  /** The outlines of one item. @throws AppError */
  async derive(item: LeafItem, sliverMm: number): Promise<Derived> {
    const key = causeKey(item, sliverMm);
    const known = this.derived.get(key);
    if (known) return known;
    await Promise.all(fontsOf(item).map((id) => this.font(id)));
    const result = deriveItem(item, (id) => this.ready.get(id), sliverMm);
    this.derived.set(key, result);
    return result;
  }

  /** The line of an edge cut round outlines on the drawing. @throws InputError when its settings are impossible */
  edgeCut(item: EdgeCutItem, outlines: readonly Outline[]): Outline {
    return lineRound(item, outlines, this.derived).outline;
  }

  /** What is known of every item of the drawing: the pieces, or why there are none. Fonts are read first. */
  async knowing(drawing: Drawing, pause: () => Promise<void>, onShare: (share: number) => void = () => undefined): Promise<KnownOf> {
    const leaves = leavesOf(drawing);
    const failed = new Map<string, Known>();
    await Promise.all(
      [...new Set(leaves.flatMap(fontsOf))].map((id) => this.font(id).catch((error: unknown) => failed.set(id, whyOf(error)))),
    );
    const known = knownIn(drawing, (id) => this.ready.get(id), this.derived);
    // a font that could not be read is no font that the shop has not
    const knownOf = (item: LeafItem): Known => {
      const why = fontsOf(item).flatMap((id) => failed.get(id) ?? [])[0];
      return why ?? known(item);
    };
    for (let i = 0; i < leaves.length; i += BATCH) {
      for (const leaf of leaves.slice(i, i + BATCH)) knownOf(leaf);
      onShare(Math.min(1, (i + BATCH) / leaves.length));
      await pause();
    }
    return Object.assign(knownOf, known.on ? { on: known.on } : {});
  }

  /** The font of the shop for one that a file names: the nearest that has all characters of the text, if one has. */
  async fontFor(wanted: FontWanted, text: string): Promise<{ font: Font; chosen: FontChosen } | undefined> {
    const all = await this.source.list();
    const chosen = chooseFont(wanted, all);
    const font = chosen && (await this.font(chosen.id));
    if (!chosen || !font) return undefined;
    if (chosen.instead === undefined || missingCharacters(font, text).length === 0) return { font, chosen };
    for (const id of await this.covering(text)) {
      const other = await this.font(id);
      if (other) return { font: other, chosen: { id, instead: nameOf(all, id) } };
    }
    return { font, chosen };
  }

  /** Fonts of the shop that have every character of a text. One that cannot be read now is not offered. */
  async covering(text: string): Promise<string[]> {
    const fonts = await this.source.list();
    const missing = await Promise.all(
      fonts.map(async ({ id }) => {
        const font = await this.font(id).catch((error: unknown) => {
          if (error instanceof AppError) return undefined;
          throw error;
        });
        return font ? missingCharacters(font, text).length : Infinity;
      }),
    );
    return fonts.flatMap(({ id }, i) => (missing[i] === 0 ? [id] : []));
  }
}

const nameOf = (all: readonly FontEntry[], id: string): string => all.find((entry) => entry.id === id)?.name ?? id;
