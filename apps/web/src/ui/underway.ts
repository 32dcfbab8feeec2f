/** Longer work, shown with how much of it is done and with Stop; short work says nothing. */
import { toast } from 'sonner';

/** Over before it could be read, ms. */
const QUIET_MS = 400;

/**
 * @param name what is being done, as a sentence begins
 * @param stop ends it; the work's promise is then rejected
 */
export async function underway<T>(name: string, stop: () => void, work: (onShare: (share: number) => void) => Promise<T>): Promise<T> {
  const action = { label: 'Stop', onClick: stop };
  let id: string | number | undefined;
  let text = `${name}…`;
  const show = (): void => {
    id = toast.loading(text, id === undefined ? { action } : { id, action });
  };
  const timer = setTimeout(show, QUIET_MS);
  try {
    return await work((share) => {
      text = `${name}: ${Math.round(100 * share)} %`;
      if (id !== undefined) show();
    });
  } finally {
    clearTimeout(timer);
    if (id !== undefined) toast.dismiss(id);
  }
}
