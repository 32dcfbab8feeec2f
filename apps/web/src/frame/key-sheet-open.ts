/** Whether the key sheet is open; apart from it, so that it is loaded only then. */
import { create } from 'zustand';

export const useKeySheet = create<{ open: boolean }>(() => ({ open: false }));
export const openKeySheet = (): void => useKeySheet.setState({ open: true });
