/** Files of the Inbox that lie on the open drawing, and those of them that were saved anew since. */
import { itemOf, type Drawing, type Inbox, type InboxFile } from '@lorvek/model';
import type { Report } from './import-reports.ts';

export interface PlacedFile {
  readonly file: InboxFile;
  /** The item that it became, and what came in with it. */
  readonly root: string;
  readonly report: Report;
  readonly isNewer: boolean;
}

/** The files that lie on the drawing, each at the place where it was laid last. */
export function placedFiles(inbox: Inbox | undefined, reports: Readonly<Record<string, Report>>, drawing: Drawing): PlacedFile[] {
  const placed = Object.entries(reports).reverse();
  return (inbox?.files ?? []).flatMap((file) => {
    const found = placed.find(([root, report]) => report.inbox?.id === file.id && itemOf(drawing, root) !== undefined);
    if (!found) return [];
    const [root, report] = found;
    return [{ file, root, report, isNewer: report.inbox?.stamp !== file.stamp }];
  });
}
