/** Inks of their own names on a print: which there are, and how each is laid down: as a plate of its own or in process inks. */
import type { LayerId } from '../records/fields.ts';
import type { Finding } from '@lorvek/core/check';
import type { PrintColour, PrintItem } from '@lorvek/core/print';
import type { LeafItem } from '../queries/plain-outline.ts';
import { isPrint, leavesOf } from '../queries/queries.ts';
import type { Colour } from '../records/colour.ts';
import type { Drawing } from '../records/document.ts';
import type { Layer, PrintLayer } from '../records/layers.ts';

/** An ink of its own name in a print, with what it looks like. */
export interface SpotInk {
  readonly name: string;
  /** As it is seen. */
  readonly hex: string;
}

/** Colours that an item has on a layer: its own, and those of its treatments, which may lie on other layers than it does. */
function coloursOn(leaf: LeafItem, layerId: LayerId): (Colour | null | undefined)[] {
  const own = leaf.layer !== layerId ? [] : leaf.kind === 'picture' ? [leaf.ink] : [leaf.paint?.fill, leaf.paint?.stroke];
  const treated = (leaf.treatments ?? []).map((t) => (t.kind !== 'bend' && t.layer === layerId ? t.ink : undefined));
  return [...own, ...treated];
}

/** Inks that the items of a layer have, in the order they come. */
export function spotInksOf(drawing: Drawing, layerId: LayerId): SpotInk[] {
  const found = new Map<string, SpotInk>();
  for (const colour of leavesOf(drawing).flatMap((leaf) => coloursOn(leaf, layerId)))
    if (colour?.spot !== undefined && !found.has(colour.spot)) found.set(colour.spot, { name: colour.spot, hex: colour.hex });
  return [...found.values()];
}

function inked(spots: NonNullable<PrintLayer['spots']>, colour: PrintColour): PrintColour {
  const rule = colour.spot === undefined ? undefined : spots[colour.spot];
  if (!rule) return colour;
  const { spot: _spot, ...plain } = colour;
  return { ...(rule.as === 'plate' ? colour : plain), ...(rule.cmyk ? { cmyk: rule.cmyk } : {}) };
}

/** An item with its inks as the layer has them laid down. */
export function inkedBy(spots: PrintLayer['spots'], item: PrintItem): PrintItem {
  if (!spots) return item;
  if (item.kind === 'picture') return item.ink ? { ...item, ink: inked(spots, item.ink) } : item;
  return {
    ...item,
    fill: item.fill && inked(spots, item.fill),
    ...(item.stroke
      ? { stroke: { ...item.stroke, ...inked(spots, item.stroke), widthMm: item.stroke.widthMm, spot: inked(spots, item.stroke).spot } }
      : {}),
  };
}

/** An ink that is to stand for white and to be laid down in colours at once. */
export function findSpots(layer: Layer, ids: readonly string[]): Finding[] {
  if (!isPrint(layer) || layer.white?.coverage !== 'named-spot') return [];
  const both = layer.white.spots.filter((name) => layer.spots?.[name]?.as === 'process');
  return both.map((name) => ({
    code: 'passes',
    level: 'stop',
    text: `The ink “${name}” of “${layer.name}” stands for white and is laid down in process inks too: choose one of the two on Lay up.`,
    parts: ids.slice(0, 50),
  }));
}
