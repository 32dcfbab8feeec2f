/** Which of the job's dialogs are open; apart from them, so that they need not be there before. */
import { create } from 'zustand';

export const useDialogs = create<{ versions: boolean; writeOut: boolean }>(() => ({ versions: false, writeOut: false }));
export const openVersions = (): void => useDialogs.setState({ versions: true });
export const openWriteOut = (): void => useDialogs.setState({ writeOut: true });
