/** Sending an order: how far the server is with its files, and stopping it. */
import type { Run, SendOrder } from '@lorvek/model';
import { AppError } from '@lorvek/core';
import { useEffect, useRef, useState } from 'react';
import { api } from '../../api/client.ts';
import { listen } from '../../api/events.ts';
import { newId } from '../../document/store.ts';
import { tellFailure } from '../../ui/tell.ts';

export interface Sending {
  /** Undefined: nothing is sent now. */
  readonly share: number | undefined;
  /** @returns undefined when it was stopped @throws AppError */
  start(jobId: string, order: Omit<SendOrder, 'orderId'>): Promise<Run[] | undefined>;
  stop(): void;
}

export function useSending(): Sending {
  const [share, setShare] = useState<number>();
  const own = useRef('');
  useEffect(() => listen({ sending: (event) => event.orderId === own.current && setShare(event.share) }), []);
  return {
    share,
    async start(jobId, order) {
      own.current = newId('order');
      setShare(0);
      try {
        return await api.send(jobId, { ...order, orderId: own.current });
      } catch (error) {
        if (error instanceof AppError && error.code === 'cancelled') return undefined;
        throw error;
      } finally {
        own.current = '';
        setShare(undefined);
      }
    },
    stop: () => void api.stopSending(own.current).catch(tellFailure),
  };
}
