/** Films of the job as they come from Stock. */
import type { Film, StockFilm } from '@lorvek/model';
import { newId } from './store.ts';

export const newFilm = (stock: StockFilm): Film => ({
  type: 'film',
  id: newId('film'),
  stockId: stock.id,
  name: stock.name,
  series: stock.series,
  hex: stock.hex,
  transfer: stock.transfer,
  visible: true,
  locked: false,
});
