import type { Field, FieldType, Form, FormItem, FormQuestion, FormView, RecordType } from '@vast-knot/core';
import { ofType, withFields } from '../connect/fields/fieldEdits';

/** A record type with its page, as it is edited. */
export type FormDraft = Pick<FormView, 'type' | 'form'>;

/** Changes what a form says of itself. */
export function withForm(draft: FormDraft, change: Partial<Form>): FormDraft {
  return draft.form ? { ...draft, form: { ...draft.form, ...change } } : draft;
}

/** Changes the field that a question asks for. */
export function withField(draft: FormDraft, path: string, change: (field: Field) => Field): FormDraft {
  return { ...draft, type: withFields(draft.type, new Set([path]), change) };
}

/** Gives a question another type: what only the old one has goes, also from the question. */
export function withFieldType(draft: FormDraft, at: number, path: string, type: FieldType): FormDraft {
  const retyped = withField(draft, path, (field) => ofType(field, type));
  return withItem(retyped, at, (item) => {
    if (item.kind !== 'question' || type === 'multichoice') return item;
    const { few: _few, most: _most, ...rest } = item;
    return rest;
  });
}

export function withItem(draft: FormDraft, at: number, change: (item: FormItem) => FormItem): FormDraft {
  const items = draft.form?.items ?? [];
  return withForm(draft, { items: items.map((item, each) => (each === at ? change(item) : item)) });
}

/** Moves a question or note up (-1) or down (1). */
export function moved(draft: FormDraft, at: number, by: -1 | 1): FormDraft {
  const items = [...(draft.form?.items ?? [])];
  const [item] = items.slice(at, at + 1);
  if (!item || at + by < 0 || at + by >= items.length) return draft;
  items.splice(at, 1);
  items.splice(at + by, 0, item);
  return withForm(draft, { items });
}

/** Takes a question or note off the page; the field of a question stays. */
export function without(draft: FormDraft, at: number): FormDraft {
  return withForm(draft, { items: (draft.form?.items ?? []).filter((_item, each) => each !== at) });
}

const question = (field: string): FormQuestion => ({ kind: 'question', field, hint: '', shown: '' });

export function withAdded(draft: FormDraft, item: FormItem): FormDraft {
  return withForm(draft, { items: [...(draft.form?.items ?? []), item] });
}

/** Asks for a field that there is. */
export const asking = (draft: FormDraft, path: string): FormDraft => withAdded(draft, question(path));

/** Asks something new: a field more, of text until it is said what it holds. */
export function withNewQuestion(draft: FormDraft, label: string): FormDraft {
  const name = fieldNameFor(label, draft.type);
  const field: Field = { name, label, type: 'text' };
  return asking({ ...draft, type: { ...draft.type, fields: [...draft.type.fields, field] } }, name);
}

/** Takes a field out that is not asked. */
export function withoutField(draft: FormDraft, path: string): FormDraft {
  return { ...draft, type: withFields(draft.type, new Set([path]), () => undefined) };
}

/** Returns a name for formulas after a question, which no other field has: `whatNeedsCare`. */
export function fieldNameFor(label: string, { fields }: RecordType): string {
  const words = label
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9 ]/g, '')
    .replace(/^[0-9 ]+/, '')
    .split(' ')
    .filter((word) => word !== '')
    .slice(0, 5);
  const joined = words
    .map((word, at) =>
      at === 0 ? word.toLowerCase() : word.charAt(0).toUpperCase() + word.slice(1).toLowerCase(),
    )
    .join('')
    .slice(0, 40);
  const base = joined === '' ? 'answer' : joined;
  const taken = (name: string) => fields.some((field) => field.name === name);
  let name = base;
  for (let at = 2; taken(name); at++) name = `${base}${at}`;
  return name;
}
