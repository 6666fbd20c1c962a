import {
  compileForm,
  formFindings,
  proposeForm,
  type CompiledForm,
  type Form,
  type FormView,
  type RecordType,
} from '@vast-knot/core';
import { inletType } from '../arrivals/receive';
import { notFound } from '../http/problem';
import type { Registry } from '../registry/registry';
import type { FormNamed } from './answers';

/** Returns the record types that come in by files, forms and events alone, with their pages. */
export function formViews({ catalog, connectors }: Registry): readonly FormView[] {
  return catalog.systems.flatMap(({ key, recordTypes }) => {
    const connector = connectors.get(key);
    if (!connector || connector.records) return [];
    return recordTypes.map((type) => ({ system: key, type, form: connector.forms?.[type.name] ?? null }));
  });
}

/** A form with what it belongs to, ready to be answered. */
export interface ReadyForm extends FormNamed {
  readonly type: RecordType;
  readonly form: Form;
  readonly compiled: CompiledForm;
}

const compiledForms = new WeakMap<RecordType, { readonly form: Form; readonly compiled: CompiledForm }>();

/** Compiled once for as long as neither form nor record type changes. */
function compiledOf(form: Form, type: RecordType): CompiledForm {
  const known = compiledForms.get(type);
  if (known?.form === form) return known.compiled;
  const compiled = compileForm(form, type);
  compiledForms.set(type, { form, compiled });
  return compiled;
}

/** Returns the form whose page has an address; undefined where none has. */
export function formAt(registry: Registry, address: string): ReadyForm | undefined {
  for (const { system, type, form } of formViews(registry))
    if (form?.address === address)
      return { system, recordType: type.name, type, form, compiled: compiledOf(form, type) };
  return undefined;
}

/** What asks for all fields of a record type that has no page. */
const withoutPage = new WeakMap<RecordType, Form>();

/**
 * Returns how records of a type are answered by other forms: as its page asks, or each of its fields where it has no page. Throws a 404
 * where records of the type do not come in.
 */
export function formOf(registry: Registry, named: FormNamed): ReadyForm {
  const type = inletType(registry, named);
  if (!type) throw notFound(`inlet ${named.system} for ${named.recordType}`);
  const own = registry.connectors.get(named.system)?.forms?.[named.recordType];
  const form = own ??
    withoutPage.get(type) ?? { ...proposeForm(type, { address: 'none', zone: 'UTC' }), open: true };
  if (!own) withoutPage.set(type, form);
  return { ...named, type, form, compiled: compiledOf(form, type) };
}

/** Returns why a form takes no answers; undefined where it does. */
export function closedBecause({ form, type }: ReadyForm): string | undefined {
  if (!form.open) return 'It takes no answers at present.';
  return formFindings(form, type).some(({ severity }) => severity === 'error')
    ? 'It is being worked on, and takes no answers at present.'
    : undefined;
}
