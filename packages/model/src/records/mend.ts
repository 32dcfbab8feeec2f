/**
 * Makes a drawing whole again after two people's changes met: every item stands once in the tree, no list names what
 * is gone, no group is empty, nothing is cut from a film that the job no longer has. Where an item came to stand twice,
 * it stays where it stood in the drawing before the last change.
 *
 * Law: what comes out passes `validateChange`; a whole drawing comes out as it is.
 */
import { PAGE_ID, type DocRecord, type Drawing, type Page } from './document.ts';
import type { GroupItem } from './items.ts';
import { pageOf } from '../queries/queries.ts';

/** A drawing that is whole again, and what had to be taken back for it. */
export interface Mended {
  /** The drawing that was given, when it was whole. */
  readonly drawing: Drawing;
  /** Records of which something had to be taken back. */
  readonly lost: readonly string[];
}

/** Which list holds each item: a group's id, or the page's. The first that names it. */
function holdersOf(drawing: Drawing): Map<string, string> {
  const holders = new Map<string, string>();
  const note = (holder: string, ids: readonly string[]): void => {
    for (const id of ids) if (!holders.has(id)) holders.set(id, holder);
  };
  if (drawing[PAGE_ID]?.type === 'page') note(PAGE_ID, pageOf(drawing).root);
  for (const record of Object.values(drawing)) if (record.type === 'item' && record.kind === 'group') note(record.id, record.children);
  return holders;
}

class Mender {
  readonly out: Record<string, DocRecord>;
  readonly lost = new Set<string>();

  constructor(
    drawing: Drawing,
    private readonly before: Drawing,
  ) {
    this.out = { ...drawing };
  }

  get page(): Page {
    return pageOf(this.out);
  }

  films(): void {
    const isLayer = (id: string): boolean => this.out[id]?.type === 'film' || this.out[id]?.type === 'print';
    const listed = this.page.layers.filter((id, i, all) => isLayer(id) && all.indexOf(id) === i);
    const known = new Set(listed);
    const unlisted = Object.values(this.out).flatMap((record) =>
      (record.type === 'film' || record.type === 'print') && !known.has(record.id) ? [record.id] : [],
    );
    if (listed.length !== this.page.layers.length || unlisted.length > 0)
      this.out[PAGE_ID] = { ...this.page, layers: [...listed, ...unlisted] };
    const films = new Set(this.page.layers);
    for (const record of Object.values(this.out)) {
      if (record.type === 'lay-up' && !films.has(record.layer)) {
        delete this.out[record.id];
        this.lost.add(record.id);
      }
      if (record.type === 'item') this.filmsOfItem(record.id, films);
    }
  }

  private filmsOfItem(id: string, films: ReadonlySet<string>): void {
    const item = this.out[id];
    if (item?.type !== 'item') return;
    const own = item.layer !== null && (!films.has(item.layer) || (item.kind === 'picture' && this.out[item.layer]?.type !== 'print'));
    const theirs = item.treatments?.some((t) => t.kind !== 'bend' && t.layer !== null && !films.has(t.layer)) ?? false;
    if (!own && !theirs) return;
    this.lost.add(id);
    this.out[id] = {
      ...item,
      ...(own ? { layer: null } : {}),
      ...(theirs
        ? {
            treatments: item.treatments?.map((t) =>
              t.kind !== 'bend' && t.layer !== null && !films.has(t.layer) ? { ...t, layer: null } : t,
            ),
          }
        : {}),
    } as DocRecord;
  }

  tree(): void {
    const stood = holdersOf(this.before);
    const holders = holdersOf(this.out);
    const held = new Map<string, ReadonlySet<string>>();
    for (const [id, holder] of stood) {
      let ids = held.get(holder);
      if (!ids) held.set(holder, (ids = new Set(this.listOf(holder))));
      if (ids.has(id)) holders.set(id, holder);
    }
    const seen = new Set<string>();
    const root = this.visit(PAGE_ID, this.page.root, holders, seen);
    for (const record of Object.values(this.out)) {
      if (record.type !== 'item' || seen.has(record.id)) continue;
      seen.add(record.id);
      root.push(record.id);
      this.lost.add(record.id);
      if (record.kind === 'group') this.group(record, holders, seen);
    }
    const kept = root.filter((id) => this.out[id] !== undefined);
    if (kept.length !== this.page.root.length || kept.some((id, i) => id !== this.page.root[i]))
      this.out[PAGE_ID] = { ...this.page, root: kept };
  }

  /** Cut lines go round what there is; one that has nothing left is taken out. */
  cutLines(): void {
    for (const record of Object.values(this.out)) {
      if (record.type !== 'item' || record.kind !== 'edge-cut') continue;
      const of = record.of.filter((id) => this.out[id]?.type === 'item');
      if (of.length === record.of.length) continue;
      this.lost.add(record.id);
      if (of.length > 0) this.out[record.id] = { ...record, of };
      else delete this.out[record.id];
    }
  }

  private listOf(holder: string): readonly string[] {
    const record = this.out[holder];
    if (record?.type === 'page') return record.root;
    return record?.type === 'item' && record.kind === 'group' ? record.children : [];
  }

  private visit(holder: string, ids: readonly string[], holders: ReadonlyMap<string, string>, seen: Set<string>): string[] {
    return ids.filter((id) => {
      const item = this.out[id];
      if (item?.type !== 'item' || seen.has(id) || holders.get(id) !== holder) {
        if (item?.type === 'item') this.lost.add(holder);
        return false;
      }
      seen.add(id);
      if (item.kind === 'group') this.group(item, holders, seen);
      return this.out[id] !== undefined;
    });
  }

  private group(group: GroupItem, holders: ReadonlyMap<string, string>, seen: Set<string>): void {
    const children = this.visit(group.id, group.children, holders, seen);
    if (children.length === 0) delete this.out[group.id];
    else if (children.length !== group.children.length) this.out[group.id] = { ...group, children };
  }
}

/**
 * @param drawing what came of a merge
 * @param before the whole drawing that it was merged onto
 */
export function mendDrawing(drawing: Drawing, before: Drawing): Mended {
  const mender = new Mender(drawing[PAGE_ID] ? drawing : { ...drawing, [PAGE_ID]: pageOf(before) }, before);
  mender.films();
  mender.cutLines();
  mender.tree();
  const keys = Object.keys(mender.out);
  const isWhole = keys.length === Object.keys(drawing).length && keys.every((id) => mender.out[id] === drawing[id]);
  return { drawing: isWhole ? drawing : mender.out, lost: [...mender.lost] };
}
