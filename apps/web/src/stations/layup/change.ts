/** Changes of a lay-up, as the cards make them. */
import { setLayUp, type LayUp } from '@lorvek/model';
import { dispatch } from '../../document/store.ts';

export const change = (film: string, fields: Partial<LayUp>): boolean => dispatch(setLayUp, { film, fields }, { origin: 'sheet.set' });
