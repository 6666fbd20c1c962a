import { Temporal } from 'temporal-polyfill';
import { leafFields, type Field, type RecordType } from '../model/system';
import { compileForm, type CompiledForm, type FormProblem } from './compileForm';
import type { Form, FormQuestion } from './form';

/** What an administrator should know of a form before anybody answers it. */
export interface FormFinding extends FormProblem {
  /** With an error the form takes no answers. */
  readonly severity: 'error' | 'warning';
}

/** Returns what is not right with a form of a record type. */
export function formFindings(form: Form, type: RecordType): readonly FormFinding[] {
  const compiled = compileForm(form, type);
  const error = (at: FormProblem['at'], because: string): FormFinding => ({ at, because, severity: 'error' });
  const warning = (at: FormProblem['at'], because: string): FormFinding => ({
    at,
    because,
    severity: 'warning',
  });
  return [
    ...compiled.problems.map(({ at, because }) => error(at, because)),
    ...compiled.items.flatMap(({ at, item, field }) =>
      field ? questionProblems(item, field).map((because) => error(at, because)) : [],
    ),
    ...missing(form, type).map((label) =>
      error('items', `“${label}” has to be filled, and is not asked: no answer could be taken.`),
    ),
    ...compiled.items.flatMap(({ at }) => later(compiled, at).map((because) => warning(at, because))),
    ...form.items.flatMap((item, at) =>
      item.kind === 'note' && item.text.trim() === '' ? [warning(at, 'The note says nothing.')] : [],
    ),
    ...(form.items.every(({ kind }) => kind === 'note') ? [warning('items', 'Nothing is asked yet.')] : []),
    ...(isZone(form.zone) ? [] : [error('zone', `There is no time zone “${form.zone}”.`)]),
  ];
}

function questionProblems({ few = 0, most = Infinity }: FormQuestion, field: Field): readonly string[] {
  const { label, options = [], min = -Infinity, max = Infinity, type } = field;
  const twice = (of: readonly string[]) => of.find((each, at) => of.indexOf(each) !== at);
  const twiceLabel = twice(options.map((option) => option.label));
  const twiceCode = twice(options.map(({ value }) => value));
  const counts = type === 'multichoice';
  return [
    ...(twiceLabel === undefined ? [] : [`“${label}” has the choice “${twiceLabel}” twice.`]),
    ...(twiceCode === undefined ? [] : [`Two choices of “${label}” have the code “${twiceCode}”.`]),
    ...(min > max ? [`“${label}” is to be ${min} at least and ${max} at most.`] : []),
    ...(counts && few > Math.min(most, options.length)
      ? [`Of “${label}”, ${few} are to be chosen at least, and ${Math.min(most, options.length)} can be.`]
      : []),
  ];
}

/** Returns the labels of fields that a record must have, and that the form does not ask for. */
function missing({ items }: Form, type: RecordType): readonly string[] {
  const asked = new Set(items.flatMap((item) => (item.kind === 'question' ? [item.field] : [])));
  return leafFields(type.fields)
    .filter(
      ({ path, field }) => field.required && !field.readOnly && path !== type.idField && !asked.has(path),
    )
    .map(({ label }) => label);
}

/** Conditions see the answers above them: what is asked below is blank by then. */
function later({ items }: CompiledForm, place: number): readonly string[] {
  const uses = items.find(({ at }) => at === place)?.shown?.uses ?? [];
  return items.flatMap(({ at, item, field }) =>
    at >= place &&
    field &&
    uses.some(({ of, path }) => of === 'record' && path === (item as FormQuestion).field)
      ? [
          `Its condition looks at “${field.label}”, which is asked ${at === place ? 'here' : 'later'}: it would always be blank.`,
        ]
      : [],
  );
}

/** Returns why fields make no record type; undefined where they do. */
export function typeProblem({ label, fields, idField, nameField }: RecordType): string | undefined {
  const names = fields.map(({ name }) => name);
  const twice = names.find((name, at) => names.indexOf(name) !== at);
  if (twice !== undefined) return `${label} has two fields called “${twice}”.`;
  if (!names.includes(idField)) return `${label} has no field “${idField}”, by which its records are known.`;
  return names.includes(nameField)
    ? undefined
    : `${label} has no field “${nameField}”, after which its records are called.`;
}

function isZone(zone: string): boolean {
  try {
    Temporal.Instant.fromEpochMilliseconds(0).toZonedDateTimeISO(zone);
    return true;
  } catch {
    return false;
  }
}
