import { leafFields, type RecordType } from '../model/system';
import { askable, type Form } from './form';

/** Returns a form that asks for all fields of a record type that can be asked, in their order. It takes no answers yet. */
export function proposeForm(type: RecordType, { address, zone }: Pick<Form, 'address' | 'zone'>): Form {
  return {
    address,
    title: type.label,
    intro: '',
    thanks: 'Your answer has come. Thank you.',
    open: false,
    zone,
    items: leafFields(type.fields)
      .filter(({ path, field }) => !field.readOnly && path !== type.idField && askable.includes(field.type))
      .map(({ path }) => ({ kind: 'question', field: path, hint: '', shown: '' })),
  };
}
