/** What of a series is open on the page. */
import { create } from 'zustand';

export const useSeriesView = create<{ rowsOpen: boolean; listOpen: boolean }>(() => ({ rowsOpen: false, listOpen: false }));

export const openRows = (rowsOpen: boolean): void => useSeriesView.setState({ rowsOpen });
export const openList = (listOpen: boolean): void => useSeriesView.setState({ listOpen });
