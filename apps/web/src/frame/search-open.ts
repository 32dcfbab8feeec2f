/** Is the search box open? Apart from the box itself, which is loaded when it is first asked for. */
import { create } from 'zustand';

export const useSearch = create<{ open: boolean }>(() => ({ open: false }));
export const openSearch = (): void => useSearch.setState({ open: true });
