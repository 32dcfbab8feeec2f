/** The shop's fonts as a worker of the page has them: asked of the server when first needed. */
import { AppError } from '@lorvek/core';
import type { FontSource } from '@lorvek/computations';
import type { FontEntry } from '@lorvek/model';

/** @throws AppError `offline` when the server does not give it */
async function fetched(path: string): Promise<Response> {
  const response = await fetch(path).catch(() => undefined);
  if (!response?.ok) throw new AppError('offline', 'A font could not be fetched from the server. It is asked for again.');
  return response;
}

export class PageFonts implements FontSource {
  private catalogue: Promise<FontEntry[]> | undefined;

  /** A failure is not kept, so that the next question asks again. */
  list(): Promise<FontEntry[]> {
    this.catalogue ??= fetched('/api/fonts')
      .then((response) => response.json() as Promise<FontEntry[]>)
      .catch((error: unknown) => {
        this.catalogue = undefined;
        throw error;
      });
    return this.catalogue;
  }

  /** A font's entry; the list is asked for again when the font is not in it, for it may have been brought since. */
  private async entryOf(id: string): Promise<FontEntry | undefined> {
    const known = (await this.list()).find((font) => font.id === id);
    if (known) return known;
    this.catalogue = undefined;
    return (await this.list()).find((font) => font.id === id);
  }

  async files(id: string): Promise<Uint8Array[] | undefined> {
    const entry = await this.entryOf(id);
    return (
      entry &&
      Promise.all(
        entry.files.map(
          async (_, index) => new Uint8Array(await (await fetched(`/api/fonts/${encodeURIComponent(id)}/files/${index}`)).arrayBuffer()),
        ),
      )
    );
  }
}
