/** Says a failure, unless it is that somebody stopped the work. */
import { AppError } from '@lorvek/core';
import { toast } from 'sonner';
import { sentenceOf } from '../api/client.ts';

export function tellFailure(error: unknown): void {
  if (error instanceof AppError && error.code === 'cancelled') return;
  // one of a kind at a time: what fails again and again is said once
  const text = sentenceOf(error);
  toast.error(text, { id: text });
}
