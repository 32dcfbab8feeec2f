/** Long texts of drawings, kept once by content, in the same transactions as what names them. */
import { InputError } from '@lorvek/core';
import { textsIn, textsNamed } from '@lorvek/model';
import { In, type EntityManager } from 'typeorm';
import { KeptTextRow } from '../db/entities.ts';

/** SQLite takes so many parameters with ease. */
const AT_ONCE = 500;

export async function keepTexts(manager: EntityManager, texts: ReadonlyMap<string, string>): Promise<void> {
  for (const [name, body] of texts) await manager.query('INSERT OR IGNORE INTO kept_text (name, body) VALUES (?, ?)', [name, body]);
}

/** The texts that a value names, by name, except those known already. @throws InputError `input.text` when one is gone */
export async function readTexts(
  manager: EntityManager,
  value: unknown,
  known: Readonly<Record<string, string>> = {},
): Promise<Record<string, string>> {
  const names = textsNamed(value).filter((name) => !Object.hasOwn(known, name));
  const texts: Record<string, string> = {};
  for (let i = 0; i < names.length; i += AT_ONCE) {
    const rows = await manager.find(KeptTextRow, { where: { name: In(names.slice(i, i + AT_ONCE)) } });
    for (const { name, body } of rows) texts[name] = body;
  }
  const gone = names.find((name) => texts[name] === undefined);
  if (gone) throw new InputError('text', 'A part of this drawing is not in the database any more.', { text: gone });
  return texts;
}

/** A value with its texts in place of their names. */
export async function withTexts<T>(manager: EntityManager, value: T): Promise<T> {
  const texts = await readTexts(manager, value);
  return textsIn(value, (name) => texts[name]);
}
