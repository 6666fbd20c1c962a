import { compile, type Formula } from '../formula/compile';
import type { Scope } from '../formula/scope';
import { fieldAt, type Field, type RecordType } from '../model/system';
import { askable, type Form, type FormNote, type FormQuestion } from './form';

/** What is wrong with a form; `at` is the place of the question or note among the others, from 0, or a member of the form. */
export interface FormProblem {
  readonly at: number | keyof Form;
  readonly because: string;
}

/** A question or note that is ready: with its field, and its condition compiled. */
export type ReadyItem = { readonly at: number; readonly shown: Formula | undefined } & (
  | { readonly item: FormQuestion; readonly field: Field }
  | { readonly item: FormNote; readonly field?: undefined }
);

/** A form that can be answered. */
export interface CompiledForm {
  readonly form: Form;
  readonly type: RecordType;
  readonly items: readonly ReadyItem[];
  /** What keeps parts of it from being asked. */
  readonly problems: readonly FormProblem[];
}

/**
 * Reads a form of a record type once, for any number of answers. Conditions see the answers, and no lookup tables: the page has
 * none of these.
 */
export function compileForm(form: Form, type: RecordType): CompiledForm {
  const scope: Scope = { record: type.fields, found: new Map(), tables: new Map() };
  const problems: FormProblem[] = [];
  const asked = new Set<string>();
  const items = form.items.flatMap((item, at): readonly ReadyItem[] => {
    const note = (because: string) => problems.push({ at, because });
    const shown = conditionOf(item.shown, scope, note);
    if (item.kind === 'note') return [{ at, item, shown }];
    const field = fieldAt(type.fields, item.field);
    const because = unaskable(item, field, type, asked);
    asked.add(item.field);
    if (because !== undefined || !field) {
      note(because ?? '');
      return [];
    }
    return [{ at, item, shown, field }];
  });
  return { form, type, items, problems };
}

function conditionOf(source: string, scope: Scope, note: (because: string) => void): Formula | undefined {
  if (source.trim() === '') return undefined;
  const compiled = compile(source, scope);
  if (!compiled.ok) {
    note(`The condition cannot be read: ${compiled.errors[0]?.message ?? 'it is no formula.'}`);
    return undefined;
  }
  const { kind } = compiled.formula.type;
  if (kind !== 'boolean' && kind !== 'any') note('The condition must give yes or no.');
  return compiled.formula;
}

/** Returns why a question cannot be asked; undefined where it can. */
function unaskable(
  { field: path }: FormQuestion,
  field: Field | undefined,
  { label }: RecordType,
  asked: ReadonlySet<string>,
): string | undefined {
  if (!field) return `${label} has no field “${path}”.`;
  if (asked.has(path)) return `“${field.label}” is asked twice.`;
  if (field.readOnly) return `“${field.label}” is given by itself, and cannot be asked.`;
  if (!askable.includes(field.type))
    return `“${field.label}” holds more than one value can say, and cannot be asked.`;
  if ((field.type === 'choice' || field.type === 'multichoice') && (field.options ?? []).length === 0)
    return `“${field.label}” has no choices yet.`;
  return undefined;
}
