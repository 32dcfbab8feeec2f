/** Changing a machine from its panel. */
import type { MachineChange } from '@lorvek/model';
import { api } from '../../api/client.ts';
import { loadMachines } from '../../api/shop.ts';
import { tellFailure } from '../../ui/tell.ts';

export const change = (id: string, fields: MachineChange): void => void api.changeMachine(id, fields).then(loadMachines).catch(tellFailure);
