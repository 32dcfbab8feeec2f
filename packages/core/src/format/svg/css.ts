/**
 * Style sheets of an SVG: rules with selectors (parsed by css-what), specificity, !important, @media for screens and
 * print; imports and everything else that would fetch are passed over. Source: CSS 2.2 cascade (W3C 2016), SVG 2 6.4.
 */
import { parse, type Selector } from 'css-what';
import { LimitError } from '../../errors/index.ts';
import { colour } from './values.ts';
import type { XmlElement } from './xml.ts';

/** A property and its value. */
export interface Declaration {
  readonly value: string;
  readonly important: boolean;
}

interface Rule {
  readonly selector: readonly Selector[];
  readonly specificity: number;
  readonly order: number;
  readonly declarations: ReadonlyMap<string, Declaration>;
}

const MOST_RULES = 20_000;
/** Rules tried on elements, in all. */
const MOST_TRIES = 3_000_000;
const COMBINATORS = new Set(['descendant', 'child', 'sibling', 'adjacent']);

/**
 * `name: value; …`
 * @returns by property, in small letters; the later one of two of the same weight
 */
export function declarations(text: string): Map<string, Declaration> {
  const out = new Map<string, Declaration>();
  for (const part of text.replace(/\/\*[\s\S]*?\*\//g, '').split(/;(?![^(]*\))/)) {
    const colon = part.indexOf(':');
    if (colon < 0) continue;
    const name = part.slice(0, colon).trim().toLowerCase();
    const raw = part.slice(colon + 1).trim();
    const important = /!\s*important\s*$/i.test(raw);
    const value = raw.replace(/!\s*important\s*$/i, '').trim();
    if (name !== '' && value !== '') out.set(name, { value, important });
  }
  return out;
}

function specificityOf(selector: readonly Selector[]): number {
  let sum = 0;
  for (const part of selector) {
    if (part.type === 'attribute') sum += part.name === 'id' && part.action === 'equals' ? 10_000 : 100;
    else if (part.type === 'pseudo') sum += 100;
    else if (part.type === 'tag') sum += 1;
  }
  return sum;
}

/** Blocks of a sheet: the text before each brace and what is between the braces, nested blocks kept whole. */
function blocks(sheet: string): { head: string; body: string }[] {
  const out: { head: string; body: string }[] = [];
  let at = 0;
  while (at < sheet.length) {
    const open = sheet.indexOf('{', at);
    if (open < 0) break;
    let depth = 1;
    let end = open + 1;
    while (end < sheet.length && depth > 0) {
      if (sheet[end] === '{') depth++;
      else if (sheet[end] === '}') depth--;
      end++;
    }
    const head = sheet.slice(at, open);
    out.push({ head: head.slice(head.lastIndexOf(';') + 1).trim(), body: sheet.slice(open + 1, end - 1) });
    at = end;
  }
  return out;
}

function collect(sheet: string, rules: Rule[]): void {
  for (const { head, body } of blocks(sheet)) {
    if (rules.length > MOST_RULES) return;
    if (head.startsWith('@')) {
      if (/^@media\b/i.test(head) && /\b(screen|all)\b/i.test(head) && !/\bnot\b/i.test(head)) collect(body, rules);
      continue;
    }
    const found = declarations(body);
    let selectors: Selector[][];
    try {
      selectors = parse(head);
    } catch {
      continue;
    }
    for (const selector of selectors)
      rules.push({ selector, specificity: specificityOf(selector), order: rules.length, declarations: found });
  }
}

/**
 * Rules by what their last compound asks of the element itself, so that only those that can fit are tried: an id, a
 * class, a name, or anything.
 */
export class StyleSheet {
  private readonly byKey = new Map<string, Rule[]>();
  private tried = 0;

  constructor(rules: readonly Rule[]) {
    for (const rule of rules) {
      const key = keyOf(rule.selector);
      const list = this.byKey.get(key);
      if (list) list.push(rule);
      else this.byKey.set(key, [rule]);
    }
  }

  /** Rules that may fit an element. @throws LimitError when the sheet asks for more tries than are made */
  *candidates(element: XmlElement): Generator<Rule> {
    const { id, class: classes } = element.attributes;
    const keys = ['*', element.name, ...(id === undefined ? [] : [`#${id}`])];
    for (const name of new Set((classes ?? '').split(/\s+/))) if (name !== '') keys.push(`.${name}`);
    for (const key of keys)
      for (const rule of this.byKey.get(key) ?? []) {
        if (++this.tried > MOST_TRIES)
          throw new LimitError(
            'svg',
            'The file has so many style rules that could fit so many parts that it is not read. Have it saved with plain attributes.',
          );
        yield rule;
      }
  }
}

function keyOf(selector: readonly Selector[]): string {
  let key = '*';
  for (let i = selector.length - 1; i >= 0; i--) {
    const part = selector[i] as Selector;
    if (COMBINATORS.has(part.type)) break;
    if (part.type === 'attribute' && part.name === 'id' && part.action === 'equals') return `#${part.value}`;
    if (part.type === 'attribute' && part.name === 'class' && part.action === 'element') key = `.${part.value}`;
    else if (part.type === 'tag' && key === '*') key = part.name;
  }
  return key;
}

/**
 * The rules of style sheets, in the order in which they win. What is broken is passed over.
 * @param texts of all style elements, in the order of the document
 */
export function styleSheet(texts: readonly string[]): StyleSheet {
  const rules: Rule[] = [];
  for (const text of texts) collect(text.replace(/\/\*[\s\S]*?\*\//g, '').replace(/<!--|-->/g, ''), rules);
  return new StyleSheet(rules);
}

function matchesAttribute(part: Extract<Selector, { type: 'attribute' }>, element: XmlElement): boolean {
  const value = element.attributes[part.name];
  if (value === undefined) return part.action === 'not';
  switch (part.action) {
    case 'exists':
      return true;
    case 'equals':
      return value === part.value;
    case 'element':
      return value.split(/\s+/).includes(part.value);
    case 'start':
      return value.startsWith(part.value);
    case 'end':
      return value.endsWith(part.value);
    case 'any':
      return value.includes(part.value);
    case 'hyphen':
      return value === part.value || value.startsWith(`${part.value}-`);
    default:
      return value !== part.value;
  }
}

function matchesPseudo(part: Extract<Selector, { type: 'pseudo' }>, element: XmlElement): boolean {
  const siblings = element.parent?.children ?? [element];
  if (part.name === 'first-child') return siblings[0] === element;
  if (part.name === 'last-child') return siblings.at(-1) === element;
  if (part.name === 'root') return element.parent === undefined;
  if (part.name === 'not' && Array.isArray(part.data)) return !part.data.some((inner) => matches(inner, element));
  if ((part.name === 'is' || part.name === 'where') && Array.isArray(part.data)) return part.data.some((inner) => matches(inner, element));
  return false;
}

function fits(part: Selector, element: XmlElement): boolean {
  if (part.type === 'tag') return part.name === element.name;
  if (part.type === 'attribute') return matchesAttribute(part, element);
  if (part.type === 'pseudo') return matchesPseudo(part, element);
  return part.type !== 'pseudo-element';
}

/** Matches from the right: the last compound must be the element, what stands before must be found round it. */
function matches(selector: readonly Selector[], element: XmlElement, end = selector.length): boolean {
  let i = end - 1;
  for (; i >= 0 && !COMBINATORS.has((selector[i] as Selector).type); i--) {
    if (!fits(selector[i] as Selector, element)) return false;
  }
  if (i < 0) return true;
  const kind = (selector[i] as Selector).type;
  if (kind === 'child') return element.parent !== undefined && matches(selector, element.parent, i);
  if (kind === 'descendant') {
    for (let up = element.parent; up; up = up.parent) if (matches(selector, up, i)) return true;
    return false;
  }
  const siblings = element.parent?.children ?? [];
  const own = siblings.indexOf(element);
  if (kind === 'adjacent') return own > 0 && matches(selector, siblings[own - 1] as XmlElement, i);
  return siblings.slice(0, own).some((sibling) => matches(selector, sibling, i));
}

/** All properties of an element: its attributes, below them nothing, above them rules by weight, then its own style. */
const isPaint = (value: string): boolean =>
  colour(value) !== undefined || /^(none|currentcolor|inherit|context-fill|context-stroke|url\()/i.test(value);

/** A value that cannot be understood does not wipe out one that can. */
const isUsable = (name: string, value: string): boolean => (name !== 'fill' && name !== 'stroke') || isPaint(value);

/** What the rules say of an element, by property. */
export function cascade(sheet: StyleSheet, element: XmlElement): Map<string, string> {
  const out = new Map<string, string>(Object.entries(element.attributes));
  const strength = new Map<string, number>();
  const put = (found: ReadonlyMap<string, Declaration>, weight: number): void => {
    for (const [name, { value, important }] of found) {
      const own = weight + (important ? 1e12 : 0);
      if (own < (strength.get(name) ?? -1) || !isUsable(name, value)) continue;
      strength.set(name, own);
      out.set(name, value);
    }
  };
  for (const rule of sheet.candidates(element))
    if (matches(rule.selector, element)) put(rule.declarations, rule.specificity * 1e5 + rule.order);
  const inline = element.attributes.style;
  if (inline) put(declarations(inline), 1e11);
  return out;
}
