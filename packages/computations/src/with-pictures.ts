/** What is worked out where pictures can be read and painted: see `registry.ts`. */
import type { PictureHost } from './host.ts';
import type { Table } from './registry.ts';
import { liftGround, silhouetteOfClear, silhouetteOfGround } from './picture-outlines.ts';
import { silhouetteOf, traceAsset } from './trace-asset.ts';
import { writeOut } from './write-out.ts';

/** What needs pictures. */
export const WITH_PICTURES = {
  trace: traceAsset,
  /** Outlines of pictures, their own pixels, y up; empty when there is none. */
  silhouette: silhouetteOf,
  'silhouette-of-clear': silhouetteOfClear,
  'silhouette-of-ground': silhouetteOfGround,
  'lift-ground': liftGround,
  'write-out': writeOut,
} as const satisfies Table<PictureHost>;
